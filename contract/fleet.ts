import { z } from 'zod';
import { FAMILIES } from '../core/instruments/build';
import { Id, num } from './basics';

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
