import type { Knex } from 'knex';
import { addDays, type LocalDate } from '../../core/dates';
import { type Efforts, learnEfforts } from '../../core/planning/effort';
import { usualMinutes } from '../../core/procedures/batch';
import { remembered } from '../db/memo';

/** History that minutes are learned from. */
const HISTORY_DAYS = 420;

/**
 * How long work takes here, by family of instruments and person, from what the bench recorded: each change against what
 * a change of so many strings usually takes.
 */
export async function effortsOf(db: Knex, today: LocalDate): Promise<Efforts> {
  const last = await db('change_record').max({ id: 'id' }).first();
  return remembered(db, 'efforts', `${last?.id ?? 0}/${today}`, async () => {
    const rows: { person_id: number; family: string; bridge: string; minutes: number; n: number }[] = await db(
      'standing_record as r',
    )
      .join('instrument as i', 'i.id', 'r.instrument_id')
      .join('string_entry as e', 'e.record_id', 'r.id')
      .where('r.kind', 'change')
      .where('e.action', 'fit')
      .where('r.on_day', '>=', addDays(today, -HISTORY_DAYS))
      .whereNotNull('r.minutes')
      .groupBy('r.id')
      .select('r.person_id', 'i.family', 'i.bridge', 'r.minutes')
      .count({ n: '*' });
    return learnEfforts(
      rows.map((r) => ({
        person: r.person_id,
        method: r.family,
        minutes: Number(r.minutes),
        usualMinutes: usualMinutes({ positions: Number(r.n), bridge: r.bridge as 'fixed' | 'floating' }),
      })),
    );
  });
}
