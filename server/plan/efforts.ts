import type { Knex } from 'knex';
import { addDays, type LocalDate } from '../../core/dates';
import { type Efforts, learnEfforts } from '../../core/planning/effort';
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
    const rows: { person_id: number; family: string; minutes: number; card_minutes: number }[] = await db(
      'standing_record as r',
    )
      .join('instrument as i', 'i.id', 'r.instrument_id')
      .where('r.kind', 'change')
      .where('r.on_day', '>=', addDays(today, -HISTORY_DAYS))
      .whereNotNull('r.minutes')
      .whereNotNull('r.card_minutes')
      .select('r.person_id', 'i.family', 'r.minutes', 'r.card_minutes');
    return learnEfforts(
      rows.map((r) => ({
        person: r.person_id,
        method: r.family,
        minutes: Number(r.minutes),
        usualMinutes: Number(r.card_minutes),
      })),
    );
  });
}
