import { group } from 'd3-array';
import type { Knex } from 'knex';
import { slips } from '../../core/settling/creep';
import { type Readiness, readinessOf } from '../../core/wear/readiness';
import { stripAt } from '../../core/wear/strip';
import { among } from '../db/among';
import * as columns from '../db/columns';
import { referralsOf } from '../faults/referral';
import { loadMany } from './instruments';
import { retunesOf } from './state';

/** What may be said of instruments to those who play them; those that are not here any more are left out. */
export async function readinessOfMany(
  db: Knex,
  ids: readonly number[],
  at: { today: string; now: number },
): Promise<Map<number, Readiness>> {
  const of = among(db, ids);
  const states = await db('instrument_state').whereIn('instrument_id', of).select('instrument_id', 'strip');
  const instruments = new Map((await loadMany(db, ids)).map((i) => [i.id, i]));
  const retunes = await retunesOf(db, [...instruments.values()]);
  const reports = group(
    await db('report').whereIn('instrument_id', of).whereNull('closed_by_record_id').select('instrument_id'),
    (r) => r.instrument_id,
  );
  const referrals = await referralsOf(db, ids);
  const open = new Set(await db('job').whereIn('instrument_id', of).where({ status: 'open' }).pluck('instrument_id'));
  return new Map(
    states.map((s): [number, Readiness] => {
      const id = s.instrument_id;
      const kept = columns.strip.read(s.strip);
      const settled = kept.flatMap((k) => (k.settledAt === null ? [] : [k.settledAt]));
      return [
        id,
        readinessOf({
          strip: stripAt(kept, at.today, at.now),
          reports: reports.get(id)?.length ?? 0,
          referrals: referrals.get(id)?.length ?? 0,
          jobOpen: open.has(id),
          agesKnown: kept.every((k) => k.fittedOn !== null),
          settledAt: settled.length > 0 ? Math.max(...settled) : null,
          slips: [...(retunes.get(id)?.values() ?? [])].some((r) => slips(r)),
          now: at.now,
        }),
      ];
    }),
  );
}
