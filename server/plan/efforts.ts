import type { Knex } from 'knex';
import { addDays, type LocalDate } from '../../core/dates';
import { type EffortCell, type Efforts, learnEfforts, MOST_LOG } from '../../core/planning/effort';
import { remembered } from '../db/memo';

/** History that minutes are learned from. */
const HISTORY_DAYS = 420;

/**
 * How long work takes here, by family of instruments and person, from what the bench recorded: each change against the
 * minutes of its own card, which is what a plan multiplies again.
 */
export async function effortsOf(db: Knex, today: LocalDate): Promise<Efforts> {
  const last = await db('change_record').max({ id: 'id' }).first();
  return remembered(db, 'efforts', `${last?.id ?? 0}/${today}`, async () => {
    const log = 'ln(r.minutes / r.card_minutes)';
    const cells: EffortCell[] = await db('standing_record as r')
      .join('instrument as i', 'i.id', 'r.instrument_id')
      .where('r.kind', 'change')
      .where('r.on_day', '>=', addDays(today, -HISTORY_DAYS))
      .where('r.minutes', '>', 0)
      .where('r.card_minutes', '>', 0)
      .whereRaw(`abs(${log}) <= ?`, [MOST_LOG])
      .groupBy('r.person_id', 'i.family')
      .select({ person: 'r.person_id', method: 'i.family' })
      .select(db.raw(`count(*) as records, sum(${log}) as sum, sum(${log} * ${log}) as squares`));
    return learnEfforts(cells);
  });
}
