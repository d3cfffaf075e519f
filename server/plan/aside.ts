import type { Knex } from 'knex';
import type { Aside } from '../../contract/plan';
import type { LocalDate } from '../../core/dates';
import { type Acting, change, requireOwn } from '../db/change';
import { notFound, refused } from '../errors';

/**
 * Says of a job of today's plan that it will not fit, or was done elsewhere, or takes that back. It leaves the session;
 * the plan has it to place anew, and nothing is recorded of the instrument by it.
 */
export async function setAside(
  db: Knex,
  acting: Acting,
  p: Aside,
  at: { today: LocalDate },
): Promise<{ aside: Aside['why'] }> {
  return change(db, acting, 'plan.aside', p, async (trx) => {
    const plan = await trx('plan').orderBy('id', 'desc').first('id');
    const job = await trx('plan_job as j')
      .join('instrument as i', 'i.id', 'j.instrument_id')
      .where({ 'j.plan_id': plan?.id ?? -1, 'i.tag': p.tag, 'j.kind': p.kind })
      .first('j.*');
    if (!job) throw notFound(`A task for “${p.tag}” in the plan`);
    await requireOwn(trx, acting, 'plan.aside', job.person_id);
    if (job.on_day !== at.today)
      throw refused(
        'not-today',
        'Not in today’s sessions',
        'It is not in one of today’s sessions. Move it on the Plan page.',
      );
    await trx('plan_job')
      .where({ plan_id: job.plan_id, instrument_id: job.instrument_id, kind: job.kind })
      .update({ aside: p.why, aside_by: p.why ? acting.personId : null, aside_at: p.why ? acting.now : null });
    return { result: { aside: p.why }, entity: 'plan', entityId: job.plan_id };
  });
}
