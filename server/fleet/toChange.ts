import type { Knex } from 'knex';
import { among } from '../db/among';

/** The strings that a change of each instrument is of, as its state keeps them. */
export async function toChangeOf(db: Knex, ids: readonly number[]): Promise<Map<number, Set<number>>> {
  const rows: { instrument_id: number; to_change: string }[] = await db('instrument_state')
    .whereIn('instrument_id', among(db, ids))
    .select('instrument_id', 'to_change');
  return new Map(rows.map((r) => [r.instrument_id, new Set<number>(JSON.parse(r.to_change))]));
}
