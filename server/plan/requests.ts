import type { Knex } from 'knex';
import type { WorkRequest } from '../../contract/plan';
import type { LocalDate } from '../../core/dates';
import { type Acting, change, insertId } from '../db/change';
import { notFound, refused } from '../errors';
import { findByTag } from '../fleet/instruments';

export interface OpenRequest {
  id: number;
  tag: string;
  kind: WorkRequest['kind'];
  dueOn: LocalDate;
  why: string;
}

/** What is asked for by hand and not done yet, the first due first. */
export async function openRequests(db: Knex): Promise<OpenRequest[]> {
  const rows = await db('plan_request as r')
    .join('instrument as i', 'i.id', 'r.instrument_id')
    .where({ 'r.status': 'open' })
    .orderBy('r.due_on')
    .select('r.id', 'r.kind', 'r.due_on', 'r.why', 'i.tag');
  return rows.map((r) => ({ id: r.id, tag: r.tag, kind: r.kind, dueOn: r.due_on, why: r.why }));
}

/** Asks for work that no due date brings: a look, a yearly service, strings off for other work. */
export async function requestJob(db: Knex, acting: Acting, p: WorkRequest): Promise<{ requestId: number }> {
  return change(db, acting, 'plan.request', p, async (trx) => {
    const instrument = await findByTag(trx, p.tag);
    if (!instrument) throw notFound(`“${p.tag}”`);
    const same = await trx('plan_request')
      .where({ instrument_id: instrument.id, kind: p.kind, status: 'open' })
      .first();
    if (same)
      throw refused(
        'asked-already',
        'Already requested',
        `This work is already requested, due by ${same.due_on}: ${same.why}.`,
      );
    const { id } = await insertRequest(trx, acting, instrument.id, p);
    return { result: { requestId: id }, entity: 'plan_request', entityId: id };
  });
}

/** Writes a request down, within a change. */
export async function insertRequest(
  trx: Knex,
  acting: Acting,
  instrumentId: number,
  p: Omit<WorkRequest, 'tag'>,
): Promise<{ id: number }> {
  const id = await insertId(trx, 'plan_request', {
    instrument_id: instrumentId,
    kind: p.kind,
    due_on: p.dueOn,
    why: p.why,
    person_id: acting.personId,
    at: acting.now,
    status: 'open',
  });
  return { id };
}

/** Takes back what was asked for. */
export async function withdrawRequest(db: Knex, acting: Acting, p: { id: number }): Promise<{ withdrawn: true }> {
  return change(db, acting, 'plan.request-withdrawn', p, async (trx) => {
    if ((await trx('plan_request').where({ id: p.id, status: 'open' }).update({ status: 'withdrawn' })) === 0)
      throw notFound('This request');
    return { result: { withdrawn: true as const }, entity: 'plan_request', entityId: p.id };
  });
}

/** Closes what a job that was recorded has answered. */
export async function answerRequests(
  trx: Knex,
  instrumentId: number,
  kinds: readonly string[],
  recordId: number,
): Promise<void> {
  await trx('plan_request')
    .where({ instrument_id: instrumentId, status: 'open' })
    .whereIn('kind', kinds)
    .update({ status: 'done', done_by_record_id: recordId });
}

/** Opens what a record had answered again, when the record is taken back; not what was asked for anew since. */
export async function reopenRequests(trx: Knex, recordId: number): Promise<void> {
  for (const r of await trx('plan_request').where({ done_by_record_id: recordId })) {
    const again = await trx('plan_request')
      .where({ instrument_id: r.instrument_id, kind: r.kind, status: 'open' })
      .first();
    if (!again) await trx('plan_request').where({ id: r.id }).update({ status: 'open', done_by_record_id: null });
  }
}
