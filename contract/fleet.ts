import { z } from 'zod';
import {
  BRIDGES,
  EXTRAS,
  FAMILIES,
  FINGERBOARDS,
  HEADS,
  STRING_ENDS,
  TAIL_ENDS,
  TUNERS,
} from '../core/instruments/build';
import { Day, Id, num } from './basics';
import { GONE } from './choices';
import { RequestShape } from './plan';

export const DUE_FILTERS = ['all', 'horizon', 'overdue', 'broken', 'settling'] as const;
export const FLEET_SORTS = ['due', 'tag', 'instrument', 'place', 'changed'] as const;

/** Rows in one answer: some screens full; more come as one goes on. */
const FIRST_ROWS = 40;

/** The Fleet query as it stands in the address bar. */
export const FleetShape = z.object({
  q: z.string().max(80).catch(''),
  place: z.union([z.null(), num(z.int())]).catch(null),
  family: z.enum(FAMILIES).nullable().catch(null),
  due: z.enum(DUE_FILTERS).catch('all'),
  sort: z.enum(FLEET_SORTS).catch('due'),
  descending: z.stringbool().catch(false),
  offset: z.coerce.number().int().min(0).catch(0),
  limit: z.coerce.number().int().min(1).max(200).catch(FIRST_ROWS),
});

const Tag = z
  .string()
  .trim()
  .min(1, 'give it a tag')
  .max(20)
  // A comma would be another tag of a list.
  .regex(
    /^[\p{L}\p{N}](?:[\p{L}\p{N} ._/-]*[\p{L}\p{N}])?$/u,
    'use only letters, digits, spaces, dots, hyphens, slashes and underscores, with a letter or digit at each end',
  );

/** What is said of an instrument beside its build: its tag, where and with whom it is, remarks. */
export const DetailsShape = z.object({
  expectedVersion: num(z.int()),
  newTag: Tag,
  placeId: num(z.int()),
  holder: z.string().trim().max(60),
  note: z.string().trim().max(1000),
  maker: z.string().trim().max(60).optional(),
  model: z.string().trim().max(60).optional(),
  serial: z.string().trim().max(60).optional(),
  /** Whether one has to hold it while another works. */
  takesTwo: z.enum(['one', 'two']).optional(),
  /** Left empty: as it is. */
  hoursPerWeek: z.union([z.literal('').transform(() => null), z.null(), num(z.number().min(0).max(80))]).optional(),
});
export type Details = z.output<typeof DetailsShape>;

/** Several instruments at once; what is not said stays. A form sends their tags as one text. */
export const ManyShape = z
  .object({
    tags: z.preprocess(
      (value) =>
        typeof value === 'string'
          ? value
              .split(',')
              .map((t) => t.trim())
              .filter(Boolean)
          : value,
      z.array(z.string().max(60)).min(1, 'choose at least one instrument').max(2000),
    ),
    placeId: num(z.int()).optional(),
    holder: z.string().trim().max(60).optional(),
    houseSetId: num(z.int()).optional(),
    /** Null: it is back. */
    retire: z.union([z.enum(GONE), z.literal('').transform(() => null), z.null()]).optional(),
    /** Days that strings stay on at these; null: what holds for their set or family. */
    interval: z
      .object({ days: z.int().min(1).max(3650).nullable(), why: z.string().trim().min(3).max(300) })
      .optional(),
    /** Work beside what falls due. */
    request: RequestShape.omit({ tag: true }).optional(),
    /** A loan to somebody, or to a class. */
    lend: z.object({ from: Day, to: Day, why: z.string().trim().min(2).max(100) }).optional(),
  })
  .refine(
    (p) => [p.placeId, p.holder, p.houseSetId, p.retire, p.interval, p.request, p.lend].some((v) => v !== undefined),
    'choose something to change',
  );
export type ManyInstruments = z.output<typeof ManyShape>;
export const UndoManyShape = z.object({ undo: z.string().min(8).max(120) });

/** What a photograph is of; its bytes are the body. */
export const PhotoShape = z
  .object({ job: num(z.int()).optional(), tag: z.string().max(60).optional(), step: z.string().max(120).default('') })
  .refine(
    (p) => (p.job === undefined) !== (p.tag === undefined),
    'choose the work or the instrument this photo belongs to',
  );

/** How something was found, as a fact of the instrument; empty: not any more. */
export const KeepFactShape = z.object({ asked: z.string().min(1).max(200), said: z.string().trim().max(300) });
export type KeepFact = z.output<typeof KeepFactShape>;

export type FleetQuery = z.output<typeof FleetShape>;

export function fleetQueryOf(params: URLSearchParams) {
  const get = (name: string) => params.get(name) || null;
  return FleetShape.parse({
    q: get('q') ?? '',
    place: get('place'),
    family: get('family'),
    due: get('due') ?? 'all',
    sort: get('sort') ?? 'due',
    descending: get('descending') ?? 'false',
    offset: get('offset') ?? 0,
    limit: get('limit') ?? FIRST_ROWS,
  });
}

export const HouseStringsShape = z.object({ productId: Id, expectedVersion: num(z.int()) });

/** A new instrument; what is usual for its family and size can be corrected afterwards. */
export const NewInstrumentShape = z.object({
  tag: Tag,
  family: z.enum(FAMILIES),
  size: z.string(),
  placeId: num(z.int()),
  holder: z.string().trim().max(60).default(''),
  houseSetId: z.union([z.literal('suggest'), z.literal('none').transform(() => null), num(z.int())]),
  hoursPerWeek: num(z.number().min(0).max(80)),
});

const Measure = z.union([z.literal('').transform(() => undefined), num(z.number().min(0.1).max(600))]).optional();

/** The parts and measures of an instrument, as its form sends them. */
export const BuildShape = z
  .object({
    expectedVersion: num(z.int()),
    handedness: z.enum(['right', 'left']),
    scaleMm: num(z.number().min(150).max(1300)),
    head: z.enum(HEADS),
    tuner: z.enum(TUNERS),
    tailEnd: z.enum(TAIL_ENDS),
    bridge: z.enum(BRIDGES),
    stringEnd: z.enum(STRING_ENDS),
    fingerboard: z.enum(FINGERBOARDS),
    extras: z
      .string()
      .default('')
      .transform((text) => text.split(',').filter(Boolean))
      .pipe(z.array(z.enum(EXTRAS))),
    diameterMm: num(z.number().min(2).max(40)),
    roomUnderHoleMm: num(z.number().min(1).max(60)),
    spacingMm: num(z.number().min(5).max(90)),
    notedLengthMm: z.union([z.literal('').transform(() => null), num(z.number().min(100).max(1300))]).optional(),
  })
  // Measures of single strings: post-6, slot-6.
  .catchall(Measure);
