import { z } from 'zod';
import { isLocalDate } from '../../core/dates';
import { FAMILIES } from '../../core/instruments/build';
import { FATES, JOB_KINDS, PHASES } from '../../core/procedures/types';
import { OUTCOMES } from '../../server/bench/jobs';
import { DUE_FILTERS, FLEET_SORTS } from '../../server/fleet/list';

export const Day = z.string().refine(isLocalDate, 'a day, written 2026-12-18');

export const EntryShape = z.object({
  number: z.int().min(1).max(24),
  action: z.enum(['fit', 'kept', 'left-off']),
  productId: z.int().nullable(),
  broken: z.int().min(0).max(5),
  found: z.boolean(),
});

export const FinishShape = z.object({
  expectedVersion: z.int(),
  entries: z.array(EntryShape).min(1).max(24),
  discard: z.array(z.string()).max(50),
  notes: z.string().max(4000),
  minutes: z
    .number()
    .min(0)
    .max(24 * 60)
    .nullable(),
  parts: z
    .array(
      z.object({
        part: z.string().max(60),
        fate: z.enum(FATES),
        expected: z.int().min(0).max(200),
        counted: z.int().min(0).max(200),
      }),
    )
    .max(30)
    .optional(),
  at: z.int().optional(),
});

export const AnswerShape = z.object({
  step: z.string().max(80),
  outcome: z.enum(OUTCOMES),
  note: z.string().max(1000),
  cursor: z.string().max(80),
  at: z.int().optional(),
});

/** Rows in one answer: some screens full; more come as one goes on. */
const FIRST_ROWS = 40;

/** The Fleet query as it stands in the address bar. */
export const FleetShape = z.object({
  q: z.string().max(80).catch(''),
  place: z.union([z.null(), z.coerce.number().int()]).catch(null),
  family: z.enum(FAMILIES).nullable().catch(null),
  due: z.enum(DUE_FILTERS).catch('all'),
  sort: z.enum(FLEET_SORTS).catch('due'),
  descending: z.stringbool().catch(false),
  offset: z.coerce.number().int().min(0).catch(0),
  limit: z.coerce.number().int().min(1).max(200).catch(FIRST_ROWS),
});

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

const SlackShape = z.discriminatedUnion('kind', [
  z.object({ kind: z.literal('first-fret'), times: z.number().min(0).max(6) }),
  z.object({ kind: z.literal('to-fret'), fret: z.number().min(0).max(12) }),
  z.object({ kind: z.literal('post-spacings'), spacings: z.number().min(0).max(6) }),
  z.object({ kind: z.literal('length'), mm: z.number().min(0).max(500) }),
  z.object({
    kind: z.literal('lift'),
    heightMm: z.number().min(1).max(300),
    frets: z.array(z.int().min(1).max(24)).min(1).max(6),
  }),
  z.object({ kind: z.literal('turns'), turns: z.number().min(0).max(12) }),
  z.object({ kind: z.literal('none') }),
  z.object({ kind: z.literal('whole') }),
]);

export const MethodShape = z.object({
  atATime: z.union([z.literal('all'), z.literal(1), z.literal(2), z.literal(3)]),
  order: z.enum(['thick-to-thin', 'thin-to-thick', 'outer-inward', 'number-down', 'pairs-from-nut']),
  slack: SlackShape,
  slackPlain: SlackShape.nullable(),
  winds: z.enum(['one-over', 'spiral-down', 'self-lock']),
  windsPlain: z.literal('two-over').nullable(),
  hole: z.enum(['across', 'along', 'angled']),
  trim: z.object({
    when: z.enum(['before-winding', 'after-first-tension', 'when-settled']),
    leaveMm: z.union([z.literal(0), z.literal(5), z.literal(10)]),
  }),
  stretchRounds: z.int().min(0).max(4),
});

const Words = z.string().max(300).optional();

export const HouseShape = z.object({
  method: MethodShape,
  wording: z.record(z.string().max(80), z.object({ title: Words, detail: Words })),
  steps: z
    .array(
      z.object({
        id: z.string().regex(/^[a-z0-9-]{1,40}$/, 'a short name of small letters, digits and hyphens'),
        phase: z.enum(PHASES),
        title: z.string().max(200),
        detail: z.string().max(400),
        reason: z.string().max(300),
        minutes: z.number(),
        question: z.string().max(120),
      }),
    )
    .max(20),
});

/** Opening a job. A form sends its numbers as one text, a program as a list. */
export const OpenJobShape = z.object({
  tag: z.string(),
  kind: z.enum(JOB_KINDS).optional(),
  numbers: z
    .preprocess(
      (value) => (typeof value === 'string' ? value.split(',').filter(Boolean).map(Number) : value),
      z.array(z.int().min(1).max(24)).max(24),
    )
    .optional(),
  departure: z.object({ method: MethodShape.partial(), reason: z.string().max(300) }).optional(),
});

/** Another way for a job that is open. */
export const DepartShape = z.object({
  expectedVersion: z.int(),
  method: MethodShape.partial(),
  reason: z.string().max(300),
});

/** Instruments to work together. A form sends their tags as one text. */
export const BatchShape = z.object({
  tags: z.preprocess(
    (value) => (typeof value === 'string' ? value.split(',').filter(Boolean) : value),
    z.array(z.string().max(40)).max(40),
  ),
});

const Sign = z.union([z.literal(0), z.literal(1), z.literal(2)]);

export const LookShape = z.object({
  expectedVersion: z.int(),
  outcome: z.enum(['done', 'referred']),
  referredTo: z.string().max(80),
  inspection: z.object({ sound: Sign, look: Sign, feel: Sign, tune: Sign, winding: Sign }).nullable(),
  notes: z.string().max(4000),
  minutes: z
    .number()
    .min(0)
    .max(24 * 60)
    .nullable(),
});

export const FaultShape = z.object({
  tag: z.string(),
  symptom: z.string().max(40),
  number: z
    .union([z.literal('').transform(() => null), z.null(), z.coerce.number().int().min(1).max(24)])
    .default(null),
  cause: z.string().max(40),
  note: z.string().max(1000).default(''),
});
