import type { Knex } from 'knex';
import { phaseTimes } from '../../core/procedures/times';
import { type Piece, type WorkOrder, workOrder } from '../../core/procedures/together';
import type { Phase, Procedure } from '../../core/procedures/types';
import { among } from '../db/among';
import { type Acting, change, insertId } from '../db/change';
import * as columns from '../db/columns';
import { must } from '../db/must';
import { notFound, refused } from '../errors';
import { loadInstrument } from '../fleet/instruments';
import { type Job, loadJob, openJobIn } from './jobs';

/** More than this on one bench is no longer seen at a glance. */
export const MOST_TOGETHER = 12;

/**
 * Opens jobs on several instruments to be worked together, joining those that are open. All or none.
 * @throws UserError when fewer than two or too many are named, or a tag is unknown
 */
export async function openBatch(db: Knex, acting: Acting, p: { tags: string[] }): Promise<{ batchId: number }> {
  return change(db, acting, 'batch.open', p, async (trx) => {
    const tags = [...new Set(p.tags)];
    if (tags.length < 2 || tags.length > MOST_TOGETHER)
      throw refused(
        'how-many',
        'How many together?',
        `Choose 2 to ${MOST_TOGETHER} instruments. Open a single one from its own page.`,
      );
    const person = must(await trx('person').where({ id: acting.personId }).first());
    const batchId = await insertId(trx, 'batch', {
      place_id: person.place_id,
      opened_by: acting.personId,
      opened_at: acting.now,
    });
    for (const [i, tag] of tags.entries()) {
      await openJobIn(trx, acting, { tag, batch: { id: batchId, place: i } });
    }
    return { result: { batchId }, entity: 'batch', entityId: batchId };
  });
}

export interface BatchView {
  id: number;
  openedAt: number;
  jobs: Job[];
  order: WorkOrder;
}

/** A batch with its jobs and the order in which it is worked. @throws UserError not-found */
export async function loadBatch(db: Knex, batchId: number): Promise<BatchView> {
  const batch = await db('batch').where({ id: batchId }).first();
  if (!batch) throw notFound('This batch');
  const ids: number[] = await db('job').where({ batch_id: batchId }).orderBy('batch_place').pluck('id');
  const jobs = await Promise.all(ids.map((id) => loadJob(db, id)));
  const pieces = await Promise.all(
    jobs
      .filter((j) => j.status !== 'cancelled' && j.procedure)
      .map(
        async (job): Promise<Piece> => ({
          id: job.id,
          build: (await loadInstrument(db, { id: job.instrumentId })).build,
          procedure: job.procedure as Procedure,
        }),
      ),
  );
  return { id: batchId, openedAt: batch.opened_at, jobs, order: workOrder(pieces) };
}

/**
 * Minutes by phase of a job, from the times of its answers and of those given to other jobs of its batch, so that
 * working on another instrument does not count for this one.
 */
export async function jobPhases(db: Knex, jobId: number): Promise<Map<Phase, number>> {
  const job = must(await db('job').where({ id: jobId }).first());
  const together: number[] = job.batch_id ? await db('job').where({ batch_id: job.batch_id }).pluck('id') : [jobId];
  const cards = await db('job as j')
    .join('procedure_snapshot as s', 's.hash', 'j.procedure_hash')
    .whereIn('j.id', among(db, together))
    .select('j.id', 'j.opened_at', 's.body');
  const answers = await db('job_answer')
    .whereIn('job_id', among(db, together))
    .whereIn('outcome', ['done', 'skipped'])
    .select('job_id', 'step', 'at', 'given_at');
  const { times } = phaseTimes(
    new Map(cards.map((c) => [c.id, columns.procedure.read(c.body).steps])),
    answers.map((a) => ({ jobId: a.job_id, step: a.step, at: a.given_at ?? a.at })),
    Math.min(...cards.map((c) => c.opened_at)),
  );
  return new Map(times.filter((t) => t.jobId === jobId).map((t) => [t.phase, t.minutes]));
}
