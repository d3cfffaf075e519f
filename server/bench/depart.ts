import type { Knex } from 'knex';
import type { OtherWay } from '../../contract/bench';
import { NoReasonError } from '../../core/procedures/choices';
import type { JobKind, Method } from '../../core/procedures/types';
import { type Acting, change } from '../db/change';
import * as columns from '../db/columns';
import { conflict, refused } from '../errors';
import { loadInstrument } from '../fleet/instruments';
import { programmeRow } from '../programme/programme';
import { releaseKit, reserveKit } from '../stock/reserve';
import { previewJob } from './jobs';
import { requireOpen } from './mayWork';
import { keepSnapshot } from './procedure';

/** Choices that cannot change any more once strings are slack. */
const BEFORE_SLACK: readonly (keyof Method)[] = ['atATime', 'order', 'finish', 'hanging'];

/**
 * Changes the way of an open job, with a reason the record keeps: the card is composed anew, what was answered stays
 * answered, and the bench stands at the first step that is not.
 * @throws UserError `no-reason`, `too-late` once strings are slack, `not-safe` when there is no card for it, `conflict`
 */
export async function departJob(
  db: Knex,
  acting: Acting,
  p: OtherWay & { jobId: number },
): Promise<{ jobVersion: number; cursor: string }> {
  return change(db, acting, 'job.depart', p, async (trx) => {
    const job = await requireOpen(trx, acting, p.jobId);
    if (job.version !== p.expectedVersion)
      throw conflict('Someone else has changed this work. Reload to see it before you go on.', {
        currentVersion: job.version,
      });
    const snapshot = await trx('procedure_snapshot')
      .where({ hash: job.procedure_hash ?? '' })
      .first();
    if (!snapshot)
      throw refused(
        'no-card',
        'No steps to change',
        'There are no guided steps for this. Record the strings when you finish.',
      );
    const before = columns.procedure.read(snapshot.body);
    const answers = await trx('job_answer').where({ job_id: job.id }).whereIn('outcome', ['done', 'skipped']);
    const answered = new Set(answers.map((a) => a.step as string));
    const begun = before.steps.some((s) => s.phase === 'slacken' && answered.has(s.key));
    const late = begun ? BEFORE_SLACK.filter((k) => k in p.method && p.method[k] !== before.method[k]) : [];
    if (late.length > 0)
      throw refused(
        'too-late',
        'A string is already slack',
        'The number of strings at a time and their order cannot change once a string is slack. Finish this one the way it was started.',
      );
    const known = job.departure ? columns.departure.read(job.departure) : null;
    const method: Partial<Method> = { ...known?.method, ...p.method };
    const instrument = await loadInstrument(trx, { id: job.instrument_id });
    const programme = await programmeRow(trx);
    const made = await previewJob(
      trx,
      instrument,
      {
        kind: job.kind as JobKind,
        numbers: columns.numbers.read(job.strings),
        departure: { method, reason: p.reason },
      },
      programme.a4_hz,
    ).catch((error: unknown) => {
      if (error instanceof NoReasonError) throw refused('no-reason', 'Why change the method?', error.message);
      throw error;
    });
    if ('gaps' in made.composed)
      throw refused(
        'not-safe',
        'That will not work here',
        `That will not work on this instrument. Missing: ${made.composed.gaps.map((g) => g.needs).join('; ')}.`,
      );
    const { procedure } = made.composed;
    const cursor = procedure.steps.find((s) => !answered.has(s.key))?.key ?? 'finish';
    const reason = [known?.reason, p.reason].filter(Boolean).join('; ');
    await trx('job')
      .where({ id: job.id })
      .update({
        procedure_hash: await keepSnapshot(trx, procedure),
        method: JSON.stringify(procedure.method),
        halves: JSON.stringify(made.halves),
        cursor,
        departure: made.differs.length ? JSON.stringify({ differs: made.differs, reason, method }) : null,
        version: job.version + 1,
      });
    if (JSON.stringify(made.halves) !== job.halves) {
      await releaseKit(trx, acting, job.id, 'another-way');
      await reserveKit(trx, acting, job.id);
    }
    return { result: { jobVersion: job.version + 1, cursor }, entity: 'job', entityId: job.id };
  });
}
