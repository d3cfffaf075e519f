import type { Knex } from 'knex';
import type { Practised } from '../../contract/people';
import { isPractised } from '../../core/procedures/practice';
import { localDate } from '../clock';
import { type Acting, change, insertId } from '../db/change';
import { programmeRow } from '../programme/programme';

/** Keeps that somebody has practised a card; what was mostly right counts on the ladder. */
export async function recordPractice(db: Knex, acting: Acting, p: Practised): Promise<{ counts: boolean }> {
  return change(db, acting, 'practice.record', p, async (trx) => {
    const programme = await programmeRow(trx);
    const id = await insertId(trx, 'practice', {
      person_id: acting.personId,
      family: p.family,
      on_day: localDate(acting.now, programme.time_zone),
      at: acting.now,
      asked: p.asked,
      right: p.right,
    });
    return { result: { counts: isPractised(p) }, entity: 'practice', entityId: id };
  });
}
