import type { Knex } from 'knex';
import type { SentAnswer } from '../../contract/bench';
import type { LocalDate } from '../../core/dates';
import { answerKey, dropsOf, type GivenAnswer, type Said, troubleOf } from '../../core/procedures/answers';
import { NoReasonError } from '../../core/procedures/choices';
import { gateProblems } from '../../core/procedures/gate';
import { MISTAKES } from '../../core/procedures/mistakes';
import type { JobKind, Method, Procedure, Step } from '../../core/procedures/types';
import { benchRequest } from '../../core/work/due';
import { localDate } from '../clock';
import { type Acting, change, insertId } from '../db/change';
import * as columns from '../db/columns';
import { conflict, notFound, refused } from '../errors';
import { requireNoReferral } from '../faults/referral';
import { type Instrument, loadInstrument, loadProducts, requireHere } from '../fleet/instruments';
import { loadHouse } from '../methods/houseMethods';
import { programmeRow } from '../programme/programme';
import { releaseKit, reserveKit } from '../stock/reserve';
import { dueWorkOf } from '../work/due';
import { closingRecord, sayClosed } from './closed';
import { type Loss, takeSpare } from './losses';
import { requireOpen, requireSignedOff, requireSignedOffFor } from './mayWork';
import { composeJob, type JobRequest, keepSnapshot, lastMethods, lastTime } from './procedure';

export type Answer = GivenAnswer & {
  /** The idempotency key it came with. */
  key: string;
  personName: string;
  /** When it was given, by the clock of the bench; it may have arrived later. */
  at: number;
};

export interface Job {
  id: number;
  tag: string;
  instrumentId: number;
  kind: JobKind;
  /** Positions the job is about. */
  numbers: number[];
  /** In what it departs from the house method, and why. */
  departure: { differs: string[]; reason: string; method?: Partial<Method> } | null;
  /** The batch it is worked in, if any. */
  batchId: number | null;
  status: 'open' | 'finished' | 'cancelled';
  version: number;
  openedBy: string;
  openedAt: number;
  cursor: string | null;
  procedure: Procedure | null;
  answers: Answer[];
}

/** What the composer makes of an instrument today, before a job is opened. */
export async function previewJob(db: Knex, instrument: Instrument, request: JobRequest = {}, a4Hz?: number) {
  const products = await loadProducts(
    db,
    instrument.positions.flatMap((p) => [p.houseProductId, p.now.productId]),
  );
  const { house, version } = await loadHouse(db, instrument.build.family);
  const last = (await lastMethods(db, [instrument.id])).get(instrument.id);
  return {
    ...composeJob({
      instrument,
      house,
      products,
      last: lastTime(last),
      request: { ...request, led: true },
      ...(a4Hz ? { a4Hz } : {}),
    }),
    version,
  };
}

/**
 * Opens a job on an instrument, or joins the one that is open. A way of working the composer refuses gets a job without
 * steps, so that what was done can still be recorded.
 * @throws UserError `no-reason` for a departure from the house method without one, `referred` while somebody qualified
 *   has to look first and no reason to go on is given
 */
export async function openJob(
  db: Knex,
  acting: Acting,
  request: JobRequest & { tag: string; despite?: string | undefined },
): Promise<{ jobId: number; joined: boolean }> {
  return change<{ jobId: number; joined: boolean }>(db, acting, 'job.open', request, async (trx) => {
    const result = await openJobIn(trx, acting, request);
    return { result, entity: 'job', entityId: result.jobId };
  });
}

/** The change that is due; where a look comes first, the change that it may lead to. */
async function dueRequest(trx: Knex, instrument: Instrument, today: LocalDate): Promise<JobRequest> {
  const work = (await dueWorkOf(trx, [instrument.id], today)).get(instrument.id);
  return work && work.kind !== 'inspection' ? benchRequest(work) : {};
}

/** Opens or joins a job within a change that is under way. @throws UserError as `openJob` */
export async function openJobIn(
  trx: Knex,
  acting: Acting,
  request: JobRequest & { tag: string; despite?: string | undefined; batch?: { id: number; place: number } },
): Promise<{ jobId: number; joined: boolean }> {
  const inBatch = request.batch ? { batch_id: request.batch.id, batch_place: request.batch.place } : {};
  const instrument = await loadInstrument(trx, { tag: request.tag });
  requireHere(instrument);
  await requireSignedOff(trx, acting, instrument.build.family);
  const open = await trx('job').where({ instrument_id: instrument.id, status: 'open' }).first();
  if (open) {
    if (request.batch) await trx('job').where({ id: open.id }).update(inBatch);
    return { jobId: open.id, joined: true };
  }
  await requireNoReferral(trx, acting, instrument, request.despite ?? '');
  const unknown = request.numbers?.find((n) => !instrument.positions.some((p) => p.number === n));
  if (unknown !== undefined)
    throw refused('no-string', 'No such string', `${instrument.tag} has no string ${unknown}.`);
  if ((request.kind === 'one-string' || request.kind === 'fast-path') && request.numbers?.length !== 1)
    throw refused('which-string', 'Which string?', 'Choose the one string this is for.');
  const programme = await programmeRow(trx);
  // Asked for nothing in particular, it is the change that is due.
  const asked =
    request.kind === undefined && !request.numbers?.length
      ? await dueRequest(trx, instrument, localDate(acting.now, programme.time_zone))
      : {};
  const job = await previewJob(trx, instrument, { ...request, ...asked }, programme.a4_hz).catch((error: unknown) => {
    if (error instanceof NoReasonError) throw refused('no-reason', 'Why change the method?', error.message);
    throw error;
  });
  const procedure = 'procedure' in job.composed ? job.composed.procedure : null;
  const jobId = await insertId(trx, 'job', {
    instrument_id: instrument.id,
    kind: job.kind,
    status: 'open',
    procedure_hash: procedure ? await keepSnapshot(trx, procedure) : null,
    strings: JSON.stringify(job.numbers),
    halves: JSON.stringify(job.halves),
    cursor: procedure?.steps[0]?.key ?? null,
    opened_by: acting.personId,
    opened_at: acting.now,
    ...inBatch,
    method: procedure ? JSON.stringify(procedure.method) : null,
    method_version: job.version,
    despite: request.despite ?? '',
    departure: job.differs.length
      ? JSON.stringify({
          differs: job.differs,
          reason: request.departure?.reason ?? '',
          method: request.departure?.method ?? {},
        })
      : null,
  });
  await reserveKit(trx, acting, jobId);
  return { jobId, joined: false };
}

/** @throws UserError not-found */
export async function loadJob(db: Knex, jobId: number): Promise<Job> {
  const row = await db('job as j')
    .join('instrument as i', 'i.id', 'j.instrument_id')
    .join('person as p', 'p.id', 'j.opened_by')
    .leftJoin('procedure_snapshot as s', 's.hash', 'j.procedure_hash')
    .where('j.id', jobId)
    .select('j.*', 'i.tag', 'p.name as opener', 's.body')
    .first();
  if (!row) throw notFound('This work');
  const answers = await db('job_answer as a')
    .join('person as p', 'p.id', 'a.person_id')
    .where('a.job_id', jobId)
    .orderBy('a.id')
    .select('a.*', 'p.name');
  return {
    id: row.id,
    tag: row.tag,
    instrumentId: row.instrument_id,
    kind: row.kind,
    numbers: columns.numbers.read(row.strings),
    departure: row.departure ? columns.departure.read(row.departure) : null,
    batchId: row.batch_id,
    status: row.status,
    version: row.version,
    openedBy: row.opener,
    openedAt: row.opened_at,
    cursor: row.cursor,
    procedure: row.body ? columns.procedure.read(row.body) : null,
    answers: answers.map((a) => ({
      ...columns.said.read(a),
      key: a.key,
      step: a.step,
      personName: a.name,
      at: a.given_at ?? a.at,
    })),
  };
}

/** The bench's clock may run ahead of the server's by so much; a time beyond that is not believed. */
const CLOCK_SLIP_MS = 10 * 60_000;

/** When something was done, as the bench says it; never before the job was opened, never in the future. */
export const givenAt = (said: number | undefined, job: { opened_at: number }, now: number): number =>
  said === undefined || said < job.opened_at || said > now + CLOCK_SLIP_MS ? now : said;

/**
 * Keeps one answer and where the bench stands after it. Answers are only ever added, so a repeat or a change of mind
 * is a new entry. One that comes in after the job was closed is kept too, and its sender told how it was closed. A
 * string that was lost takes its successor from the shelf at once.
 */
export async function saveAnswer(
  db: Knex,
  acting: Acting,
  p: SentAnswer & { jobId: number },
): Promise<{ closed: string | null; loss: Loss | null }> {
  return change(db, acting, 'job.answer', p, async (trx) => {
    const job = await trx('job').where({ id: p.jobId }).first();
    if (!job) throw notFound('This work');
    await requireSignedOffFor(trx, acting, job.instrument_id);
    const snapshot = await trx('procedure_snapshot')
      .where({ hash: job.procedure_hash ?? '' })
      .first();
    const steps = snapshot ? columns.procedure.read(snapshot.body).steps : [];
    const keys = steps.map((s) => s.key);
    const answered = [...new Set([p.step, ...(p.also ?? [])])];
    if (!answered.every((key) => keys.includes(key)) || !(keys.includes(p.cursor) || p.cursor === 'finish')) {
      throw refused('unknown-step', 'Unknown step', 'There is no such step here. Reload the bench.');
    }
    const said = saidOf(p);
    for (const step of answered) await requireOpenGate(trx, job, steps, { ...said, step });
    await trx('job_answer').insert(
      answered.map((step, i) => ({
        job_id: p.jobId,
        step,
        outcome: said.outcome,
        said: columns.said.write(said),
        person_id: acting.personId,
        at: acting.now,
        given_at: givenAt(p.at, job, acting.now),
        key: answerKey(acting.key, i),
      })),
    );
    const trouble = troubleOf(
      p,
      steps.find((s) => s.key === p.step),
    );
    const loss =
      job.status === 'open' && trouble?.number != null && MISTAKES[trouble.id].stringLost
        ? await takeSpare(trx, acting, job, trouble.number)
        : null;
    if (job.status === 'open') await trx('job').where({ id: p.jobId }).update({ cursor: p.cursor });
    const closed = job.status === 'open' ? null : sayClosed(await closingRecord(trx, p.jobId));
    return { result: { closed, loss }, entity: 'job', entityId: p.jobId };
  });
}

/** What an answer says, without where and when it was said. */
const saidOf = ({
  step: _,
  also: __,
  cursor: ___,
  at: ____,
  jobId: _____,
  ...said
}: SentAnswer & { jobId: number }): Said => said;

/**
 * What cannot be undone is kept as done only when what comes before it is, or with a reason.
 * @throws UserError `gate` with what is missing
 */
async function requireOpenGate(
  trx: Knex,
  job: { id: number; instrument_id: number; method: string | null },
  steps: readonly Step[],
  p: GivenAnswer,
): Promise<void> {
  if (p.outcome !== 'done' || !steps.find((s) => s.key === p.step)?.gate || p.passed) return;
  const rows = await trx('job_answer').where({ job_id: job.id }).orderBy('id').select('step', 'outcome', 'said');
  const answers = rows.map((row): GivenAnswer => ({ ...columns.said.read(row), step: row.step }));
  const instrument = await loadInstrument(trx, { id: job.instrument_id });
  const products = await loadProducts(
    trx,
    instrument.positions.map((x) => x.houseProductId ?? x.now.productId),
  );
  const problems = gateProblems(p.step, {
    steps,
    answers,
    drops: dropsOf(answers),
    strings: instrument.positions.map((x) => {
      const product = products.get(x.houseProductId ?? x.now.productId ?? -1);
      return { number: x.number, core: product?.core ?? 'steel', wound: product ? product.wrap !== null : true };
    }),
    rounds: job.method ? columns.method.read(job.method).stretchRounds : 0,
  });
  if (problems.length > 0)
    throw refused('gate', 'Not yet', `${problems.join(' ')} Do that first, or say why you are going ahead anyway.`);
}

/** Closes a job on which nothing was changed. The answers stay on record. */
export async function cancelJob(
  db: Knex,
  acting: Acting,
  p: { jobId: number; expectedVersion: number },
): Promise<{ cancelled: true }> {
  return change(db, acting, 'job.cancel', p, async (trx) => {
    const job = await requireOpen(trx, acting, p.jobId);
    if (job.version !== p.expectedVersion)
      throw conflict('Someone else has changed this work. Reload to see it before you go on.', {
        currentVersion: job.version,
      });
    await trx('job')
      .where({ id: p.jobId })
      .update({ status: 'cancelled', version: job.version + 1 });
    await releaseKit(trx, acting, p.jobId, 'put-away');
    return { result: { cancelled: true as const }, entity: 'job', entityId: p.jobId };
  });
}

/** What the last record of a job said went on, also when it was taken back; empty when there is none. */
export async function lastEntries(
  db: Knex,
  jobId: number,
): Promise<{ number: number; action: 'fit' | 'kept' | 'left-off'; productId: number | null }[]> {
  const record = await db('change_record').where({ job_id: jobId, kind: 'change' }).orderBy('id', 'desc').first();
  if (!record) return [];
  const rows = await db('string_entry').where({ record_id: record.id });
  return rows.map((r) => ({ number: r.number, action: r.action, productId: r.product_id }));
}
