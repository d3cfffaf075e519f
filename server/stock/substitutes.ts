import type { Knex } from 'knex';
import { among } from '../db/among';
import { productOf, type StringProduct } from '../fleet/instruments';

/** How far the gauge of a string that could stand in may lie from the one it stands in for, as a share. */
const NEAR_GAUGE = 0.15;
/** How much shorter it may be, as a share. */
const LEAST_LENGTH = 0.95;

/** What may be taken instead of strings, by product, the preferred first. Somebody has said so; nothing is guessed. */
export async function approvedSubstitutes(db: Knex, productIds?: readonly number[]): Promise<Map<number, number[]>> {
  const rows = await db('substitute')
    .where((q) => (productIds ? q.whereIn('product_id', among(db, productIds)) : q))
    .orderBy(['product_id', 'rank'])
    .select('product_id', 'substitute_id');
  const approved = new Map<number, number[]>();
  for (const r of rows) approved.set(r.product_id, [...(approved.get(r.product_id) ?? []), r.substitute_id]);
  return approved;
}

/** Strings that could stand in though nobody has said so: same core, wound or plain alike, near in gauge, long enough. */
export async function nearStrings(db: Knex, wanted: StringProduct): Promise<StringProduct[]> {
  const rows = await db('product')
    .where({ kind: 'single', core: wanted.core })
    .whereNot({ id: wanted.id })
    .whereBetween('gauge_mm', [wanted.gaugeMm * (1 - NEAR_GAUGE), wanted.gaugeMm * (1 + NEAR_GAUGE)])
    .where('length_mm', '>=', wanted.doubleLength ? wanted.lengthMm / 2 : wanted.lengthMm * LEAST_LENGTH);
  return rows.map(productOf).filter((c) => (c.wrap === null) === (wanted.wrap === null));
}
