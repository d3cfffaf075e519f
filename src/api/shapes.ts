import { z } from 'zod';
import { isLocalDate } from '../../core/dates';
import { FAMILIES } from '../../core/instruments/build';
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
});

export const AnswerShape = z.object({
  step: z.string().max(80),
  outcome: z.enum(OUTCOMES),
  note: z.string().max(1000),
  cursor: z.string().max(80),
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
