import type { Knex } from 'knex';
import { tagPath } from '../../core/instruments/tag';
import { because } from '../../core/stock/why';
import { localDate } from '../clock';
import { type Acting, change, insertId } from '../db/change';
import { must } from '../db/must';
import { conflict, refused } from '../errors';
import { refreshInstrument } from '../fleet/state';
import { reopenRequests } from '../plan/requests';
import { programmeRow } from '../programme/programme';
import { reserveKit } from '../stock/reserve';
import { reverseMoves } from '../stock/shelf';

/**
 * Takes a finished change back with a correction: the stock moves are reversed by new moves, the strings before are on
 * again, reports it answered are open again, and the job is open to be finished anew. Nothing is erased.
 * @throws UserError when a later change stands on the instrument, or stock it made has been used since
 */
export async function undoFinish(
  db: Knex,
  acting: Acting,
  request: { recordId: number; reason: string },
): Promise<{ jobId: number; correctionId: number; location: string }> {
  return change(db, acting, 'job.undo', request, async (trx) => {
    const record = await trx('change_record').where({ id: request.recordId, kind: 'change' }).first();
    if (!record)
      throw refused(
        'not-a-change',
        'Nothing to undo',
        'This record is not a string change, so it cannot be undone here.',
      );
    if (await trx('change_record').where({ instrument_id: record.instrument_id, corrects_id: record.id }).first()) {
      throw conflict('This string change has already been undone.', {});
    }
    const later = await trx('standing_record')
      .where({ instrument_id: record.instrument_id, kind: 'change' })
      .where('id', '>', record.id)
      .first();
    if (later)
      throw refused(
        'later-change',
        'There is a later change',
        'This instrument has a later string change: undo that one first.',
      );
    const openJob = await trx('job').where({ instrument_id: record.instrument_id, status: 'open' }).first();
    if (openJob)
      throw refused(
        'job-open',
        'It is on the bench',
        'This instrument is on the bench: finish or close that work first.',
      );

    const programme = await programmeRow(trx);
    const correctionId = await insertId(trx, 'change_record', {
      job_id: record.job_id,
      instrument_id: record.instrument_id,
      kind: 'correction',
      corrects_id: record.id,
      at: acting.now,
      on_day: localDate(acting.now, programme.time_zone),
      person_id: acting.personId,
      done: record.done,
      notes: request.reason,
      minutes: null,
    });
    const moves = await trx('stock_move').where({ record_id: record.id }).orderBy('id', 'desc');
    await reverseMoves(
      trx,
      moves,
      { personId: acting.personId, now: acting.now, recordId: correctionId, reason: because('change-taken-back') },
      () =>
        refused(
          'leftover-used',
          'A leftover string has been used',
          'A leftover string has been used since. Undo that change first, or count the shelf.',
        ),
    );
    await trx('follow_up').where({ record_id: record.id, status: 'open' }).update({ status: 'cancelled' });
    await trx('follow_up')
      .where({ cancelled_by_record_id: record.id })
      .update({ status: 'open', cancelled_by_record_id: null });
    await trx('report').where({ closed_by_record_id: record.id }).update({ closed_by_record_id: null });
    await reopenRequests(trx, record.id);
    const job = must(await trx('job').where({ id: record.job_id }).first());
    // What was entered later was never on the bench, and does not come there.
    const wasDone = job.procedure_hash !== null;
    await trx('job')
      .where({ id: record.job_id })
      .increment('version', 1)
      .update({ status: wasDone ? 'open' : 'cancelled' });
    if (wasDone) await reserveKit(trx, acting, record.job_id);
    await refreshInstrument(trx, record.instrument_id, { now: acting.now, timeZone: programme.time_zone });
    const { tag } = must(await trx('instrument').where({ id: record.instrument_id }).first());
    const location = wasDone ? `/bench/${record.job_id}` : `/instruments/${tagPath(tag)}`;
    return { result: { jobId: record.job_id, correctionId, location }, entity: 'change_record', entityId: record.id };
  });
}
