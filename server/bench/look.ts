import type { Knex } from 'knex';
import type { Look } from '../../contract/bench';
import type { LocalDate } from '../../core/dates';
import { isBowed } from '../../core/instruments/build';
import { stopsFor } from '../../core/procedures/mistakes';
import { isChange, type JobKind } from '../../core/procedures/types';
import { SAFETY, type SafetyTopicId } from '../../core/safety/topics';
import { type VisitKind, visitsAfterChange } from '../../core/settling/readyBy';
import { conditionOf } from '../../core/wear/condition';
import { type Done, REPAIRER } from '../../core/work/done';
import { laterByClock, localDate } from '../clock';
import { type Acting, change, insertId } from '../db/change';
import * as columns from '../db/columns';
import { conflict, refused } from '../errors';
import { openCase } from '../faults/cases';
import { loadInstrument } from '../fleet/instruments';
import { refreshInstrument } from '../fleet/state';
import { answerRequests } from '../plan/requests';
import { programmeRow } from '../programme/programme';
import { withDespite } from './closed';
import { givenAt } from './jobs';
import { requireOpen } from './mayWork';

/** A look or a referral, as the bench sends it, with its job. */
export type LookRequest = Look & { jobId: number };

/** Visits that a job of a kind makes. */
const MAKES: Partial<Record<JobKind, VisitKind>> = { retune: 'retune', 'bridge-check': 'bridge-check' };

/**
 * Records a job in which no string was changed: a first look, an instrument found slack, a visit. A first look gives
 * the strings a condition, and with it a due date; what is handed on stays open as a case until it comes back.
 * @throws UserError `conflict` when somebody closed or changed the job
 */
export async function finishLook(
  db: Knex,
  acting: Acting,
  request: LookRequest,
): Promise<{ recordId: number; caseId: number | null }> {
  return change(db, acting, 'job.look', request, async (trx) => {
    const job = await requireOpen(trx, acting, request.jobId);
    if (job.version !== request.expectedVersion)
      throw conflict('Someone else changed this work while you were on it.', { currentVersion: job.version });
    const kind = job.kind as JobKind;
    if (isChange(kind))
      throw refused('a-change', 'This work changes strings', 'When you finish, say for each string what you fitted.');
    if (kind === 'inspection' && !request.inspection && request.outcome === 'done')
      throw refused('answers', 'Answers are missing', 'Answer all five questions, or refer the instrument.');
    const programme = await programmeRow(trx);
    // It may arrive hours after it was done.
    const at = givenAt(request.at, job, acting.now);
    const today = localDate(at, programme.time_zone);
    const condition = request.inspection ? conditionOf(request.inspection) : null;
    const done: Done =
      request.outcome === 'referred'
        ? { did: 'referred', to: request.referredTo }
        : request.inspection && condition
          ? { did: 'looked', answers: request.inspection, score: condition.score }
          : { did: 'visited', kind };
    const recordId = await insertId(trx, 'change_record', {
      job_id: job.id,
      instrument_id: job.instrument_id,
      kind: 'look',
      corrects_id: null,
      at,
      on_day: today,
      person_id: acting.personId,
      done: columns.done.write(done),
      notes: withDespite(job, request.notes),
      minutes: request.minutes,
    });
    if (request.inspection && condition) {
      await trx('inspection').insert({
        instrument_id: job.instrument_id,
        record_id: recordId,
        on_day: today,
        answers: JSON.stringify(request.inspection),
        score: condition.score,
        verdict: condition.verdict,
      });
    }
    if (kind === 'inspection') await answerRequests(trx, job.instrument_id, ['inspection'], recordId);
    const visit = MAKES[kind];
    if (visit && request.outcome === 'done')
      await makeVisit(trx, acting, { instrumentId: job.instrument_id, kind: visit, at, today });
    const instrument = await loadInstrument(trx, { id: job.instrument_id });
    let caseId: number | null = null;
    if (request.outcome === 'referred') {
      caseId = await openCase(trx, acting, {
        instrumentId: job.instrument_id,
        on: today,
        symptom: kind === 'emergency' ? 'all-slack' : 'other',
        number: null,
        named: { of: 'done', done },
        next: {
          kind: 'referral',
          to: request.referredTo || REPAIRER,
          why: request.notes,
          topic: await topicOf(trx, job),
        },
        note: request.notes,
        jobId: job.id,
      });
    } else if (kind === 'emergency') {
      await trx('report')
        .where({ instrument_id: job.instrument_id, kind: 'slack' })
        .whereNull('closed_by_record_id')
        .update({ closed_by_record_id: recordId });
      for (const visit of visitsAfterChange(instrument.build.bridge).filter((v) => v.day === 1)) {
        const dueAt = laterByClock(at, visit.afterHours, programme.time_zone);
        await trx('follow_up').insert({
          instrument_id: job.instrument_id,
          record_id: recordId,
          kind: visit.kind,
          day: visit.day,
          due_at: dueAt,
          due_on: localDate(dueAt, programme.time_zone),
          status: 'open',
        });
      }
      // A post that stands may still have moved: it stays open until somebody qualified has looked.
      if (isBowed(instrument.build.family))
        caseId = await openCase(trx, acting, {
          instrumentId: job.instrument_id,
          on: today,
          symptom: 'all-slack',
          number: null,
          named: { of: 'done', done },
          next: {
            kind: 'referral',
            to: SAFETY['post-check'].to,
            why: 'Check the soundpost, the bridge and the pegs.',
            topic: 'post-check',
          },
          note: request.notes,
          jobId: job.id,
        });
    }
    await trx('job')
      .where({ id: job.id })
      .update({ status: 'finished', version: job.version + 1 });
    await refreshInstrument(trx, job.instrument_id, { now: acting.now, timeZone: programme.time_zone });
    return { result: { recordId, caseId }, entity: 'job', entityId: job.id };
  });
}

/** Ticks off the visits that a recorded job has made: those due by then, or the next one where none is due yet. */
async function makeVisit(
  trx: Knex,
  acting: Acting,
  p: { instrumentId: number; kind: VisitKind; at: number; today: LocalDate },
): Promise<void> {
  const open = await trx('follow_up')
    .where({ instrument_id: p.instrumentId, kind: p.kind, status: 'open' })
    .orderBy('due_at');
  const due = open.filter((v) => v.due_on <= p.today);
  for (const v of due.length > 0 ? due : open.slice(0, 1))
    await trx('follow_up')
      .where({ id: v.id })
      .update({
        status: 'done',
        done_by: acting.personId,
        done_at: p.at,
        version: v.version + 1,
      });
}

/** What a job was stopped for, by the last trouble that was answered; what a found-slack one always is. */
async function topicOf(trx: Knex, job: { id: number; kind: string }): Promise<SafetyTopicId> {
  const rows = await trx('job_answer')
    .where({ job_id: job.id, outcome: 'trouble' })
    .orderBy('id', 'desc')
    .select('outcome', 'said');
  for (const row of rows) {
    const said = columns.said.read(row);
    const topic = said.outcome === 'trouble' ? stopsFor(said.mistake) : null;
    if (topic) return topic;
  }
  return job.kind === 'emergency' ? 'all-slack' : 'unsure';
}
