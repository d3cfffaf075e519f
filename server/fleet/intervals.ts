import type { Knex } from 'knex';
import type { Tables } from 'knex/types/tables.js';
import type { Family } from '../../core/instruments/build';
import type { CareRule } from '../../core/wear/due';
import { type IntervalScope, type IntervalsSet, intervalInForce } from '../../core/wear/intervals';
import { among } from '../db/among';
import { must } from '../db/must';
import type { Instrument } from './instruments';

export type IntervalRow = Tables['interval_version']['base'];

export const ruleOf = (
  row: Pick<IntervalRow, 'school' | 'calendar_days' | 'play_hours' | 'never_over_days'>,
): CareRule => ({
  school: row.school,
  calendarDays: row.calendar_days,
  playHours: row.play_hours,
  neverOverDays: row.never_over_days,
});

/** A version of an interval as it is written, but for who and when. */
export const intervalColumns = (scope: IntervalScope, of: string | number, rule: CareRule) => ({
  of_key: `${scope}:${of}`,
  scope,
  family: scope === 'family' ? (of as Family) : null,
  product_id: scope === 'product' ? Number(of) : null,
  instrument_id: scope === 'instrument' ? Number(of) : null,
  school: rule.school,
  calendar_days: rule.calendarDays,
  play_hours: rule.playHours,
  never_over_days: rule.neverOverDays,
});

/** The newest version of each interval that is set, taken back or not. */
export async function newestIntervals(db: Knex, keys?: readonly string[]): Promise<Map<string, IntervalRow>> {
  const query = db('interval_version').orderBy('version');
  const rows: IntervalRow[] = await (keys ? query.whereIn('of_key', among(db, keys)) : query);
  return new Map(rows.map((r) => [r.of_key, r]));
}

/** The interval in force for each of these instruments, and what it was set for. */
export async function intervalsSet(
  db: Knex,
  instruments: readonly Pick<Instrument, 'id' | 'build' | 'houseSetId'>[],
): Promise<Map<number, { rule: CareRule; from: IntervalScope }>> {
  const keysOf = (i: (typeof instruments)[number]) =>
    [`instrument:${i.id}`, `product:${i.houseSetId}`, `family:${i.build.family}`] as const;
  const rows = await newestIntervals(db, [...new Set(instruments.flatMap(keysOf))]);
  const set = (key: string) => {
    const row = rows.get(key);
    return row && !row.withdrawn ? ruleOf(row) : undefined;
  };
  return new Map(
    instruments.map((i) => {
      const [own, product, family] = keysOf(i);
      const found: IntervalsSet = { family: must(set(family)) };
      const [ofInstrument, ofProduct] = [set(own), set(product)];
      if (ofInstrument) found.instrument = ofInstrument;
      if (ofProduct) found.product = ofProduct;
      return [i.id, intervalInForce(found)];
    }),
  );
}
