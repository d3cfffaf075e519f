import type { Knex } from 'knex';
import { type Acting, change, insertId } from '../db/change';
import { notFound } from '../errors';

/** Adds a note to a record; what it said stays as it was. */
export async function addRecordNote(
  db: Knex,
  acting: Acting,
  p: { recordId: number; text: string },
): Promise<{ noteId: number }> {
  return change(db, acting, 'record.note', p, async (trx) => {
    if (!(await trx('change_record').where({ id: p.recordId }).first())) throw notFound('This record');
    const noteId = await insertId(trx, 'record_note', {
      record_id: p.recordId,
      person_id: acting.personId,
      at: acting.now,
      text: p.text,
    });
    return { result: { noteId }, entity: 'change_record', entityId: p.recordId };
  });
}

/** Whether a record is of the instrument that a job is on. */
export async function isOfSameInstrument(db: Knex, p: { recordId: number; jobId: number }): Promise<boolean> {
  const row = await db('change_record as r')
    .join('job as j', 'j.instrument_id', 'r.instrument_id')
    .where({ 'r.id': p.recordId, 'j.id': p.jobId })
    .first('r.id');
  return row !== undefined;
}
