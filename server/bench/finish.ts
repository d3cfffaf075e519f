import type { Knex } from 'knex';
import type { FinishEntry } from '../../contract/bench';
import { isChange } from '../../core/procedures/types';
import { settledAt, type VisitKind, visitsAfterChange } from '../../core/settling/readyBy';
import { because, saidOr } from '../../core/stock/why';
import type { Done } from '../../core/work/done';
import { laterByClock, localDate } from '../clock';
import { type Acting, change, insertId } from '../db/change';
import * as columns from '../db/columns';
import { must } from '../db/must';
import { conflict, refused, UserError } from '../errors';
import type { StringProduct } from '../fleet/instruments';
import { refreshInstrument } from '../fleet/state';
import { answerRequests } from '../plan/requests';
import { programmeRow } from '../programme/programme';
import { releaseKit } from '../stock/reserve';
import { receiveLot, writeDrawPlan, writeMove } from '../stock/shelf';
import { bookSmallParts } from '../stock/smallParts';
import { jobPhases } from './batch';
import { withDespite } from './closed';
import { doneOf } from './finishWords';
import { givenAt } from './jobs';
import { returnLosses } from './losses';
import { requireOpen } from './mayWork';
import { type FinishRequest, prepare } from './preparing';
import { previewFinish } from './preview';

export interface Finished {
  recordId: number;
  jobVersion: number;
  readyAt: number | null;
  visits: { kind: VisitKind; day: number; dueAt: number }[];
}

/**
 * Minutes that the card says for what was recorded, to learn from what it took; null where there was no card, or only a
 * part of its strings went on.
 */
async function cardMinutes(
  trx: Knex,
  job: { procedure_hash: string | null; strings: string },
  entries: readonly FinishEntry[],
): Promise<number | null> {
  const fitted = entries.filter((e) => e.action === 'fit').length;
  if (job.procedure_hash === null || fitted !== columns.numbers.read(job.strings).length) return null;
  const card = must(await trx('procedure_snapshot').where({ hash: job.procedure_hash }).first());
  return columns.procedure.read(card.body).minutes;
}

/**
 * Records a finished string change in one transaction: the strings on the instrument, the stock they came from, what is
 * left over, the follow-up visits, answered reports, the next due date.
 * @throws UserError `conflict` when the job was closed or changed by someone else, `stock-short` when the shelf does not
 *   cover it and the request does not say how
 */
export async function finishJob(db: Knex, acting: Acting, request: FinishRequest): Promise<Finished> {
  return change(db, acting, 'job.finish', request, async (trx) => ({
    result: await finishIn(trx, acting, request),
    entity: 'job',
    entityId: request.jobId,
    detail: request,
  }));
}

/**
 * Records a finished change within a change that is under way.
 * @param asUsual recorded in one press, without its steps
 * @throws UserError as `finishJob`
 */
export async function finishIn(trx: Knex, acting: Acting, request: FinishRequest, asUsual = false): Promise<Finished> {
  const job = await requireOpen(trx, acting, request.jobId);
  if (job.version !== request.expectedVersion) {
    throw conflict('Someone else changed this work while you were on it.', { currentVersion: job.version });
  }
  if (!isChange(job.kind))
    throw refused('no-change', 'This work changes no strings', 'Reload the bench and finish it there.');
  const refit = job.kind === 'refit';
  if (!refit && !request.entries.some((e) => e.action !== 'kept')) {
    throw refused(
      'nothing-changed',
      'Nothing was changed',
      'No string was fitted or removed. Choose “Stop here, unchanged” instead.',
    );
  }
  const programme = await programmeRow(trx);
  // A finish may arrive hours after it was done; the strings are as old as they are.
  const at = givenAt(request.at, job, acting.now);
  const today = localDate(at, programme.time_zone);

  // Strings that lay there although the book had none are counted in first; the ledger shows both.
  const first = await prepare(trx, acting.personId, job, request.entries);
  const foundShort = first.plan.short.filter((s) => first.needs.some((n) => n.found && n.number === s.number));
  for (const need of foundShort) {
    await receiveLot(
      trx,
      {
        productId: Number(need.productId),
        form: need.amount === 'half' ? 'half' : 'single',
        sealed: false,
        receivedOn: today,
        unitCostCents: 0,
        placeId: first.placeId,
        quantity: 1,
        kind: 'count',
      },
      { personId: acting.personId, now: acting.now, recordId: null, reason: because('found-at-bench') },
    );
  }
  const p = foundShort.length ? await prepare(trx, acting.personId, job, request.entries) : first;
  if (p.plan.short.length > 0) {
    const preview = await previewFinish(trx, acting.personId, job, request.entries);
    throw new UserError(
      'stock-short',
      409,
      'Some strings are not in stock',
      'For each string that is not in stock, say where it came from or what you fitted instead.',
      { short: preview.short },
    );
  }

  const allKept = request.entries.every((e) => e.action === 'kept');
  const small = (request.small ?? []).filter((s) => s.used > 0 || s.saved > 0);
  const done: Done = {
    ...(await doneOf(trx, p, request.entries)),
    ...(small.length ? { small } : {}),
    ...(asUsual ? { asUsual } : {}),
  };
  const recordId = await insertId(trx, 'change_record', {
    job_id: job.id,
    instrument_id: job.instrument_id,
    kind: 'change',
    corrects_id: null,
    at,
    on_day: today,
    person_id: acting.personId,
    done: columns.done.write(done),
    notes: withDespite(job, request.notes),
    minutes: request.minutes,
    card_minutes: await cardMinutes(trx, job, request.entries),
    parts: request.parts ? JSON.stringify(request.parts) : null,
  });
  await returnLosses(trx, p.notLost, { personId: acting.personId, now: acting.now, jobId: job.id });
  for (const [phase, minutes] of await jobPhases(trx, job.id))
    await trx('job_phase').insert({ job_id: job.id, phase, minutes }).onConflict(['job_id', 'phase']).merge();
  const context = {
    personId: acting.personId,
    now: acting.now,
    recordId,
    jobId: job.id,
    reason: saidOr(''),
    op: acting.key,
  };
  const draw = await writeDrawPlan(trx, p.plan, p.shelf, context);
  const lostOf = (number: number) => p.lost.filter((l) => l.number === number).map((l) => l.costCents);
  for (const entry of request.entries) {
    const used = p.plan.drawn.filter((d) => d.number === entry.number);
    // Of several the last one is on; those before it broke on the way.
    const on = used.at(-1);
    await trx('string_entry').insert({
      record_id: recordId,
      instrument_id: job.instrument_id,
      number: entry.number,
      action: entry.action,
      product_id: entry.action === 'fit' ? entry.productId : null,
      lot_id: on ? (draw.lotOf(on.lotId)?.lotId ?? null) : null,
      half: on?.amount === 'half',
      broken: entry.action === 'fit' ? entry.broken : 0,
      cost_cents: [...used.map(draw.costOf), ...lostOf(entry.number)].reduce((sum, cents) => sum + cents, 0),
      at,
    });
  }
  for (const left of p.plan.leftovers) {
    if (!request.discard.includes(`${left.productId}:${left.form}`)) continue;
    const lot = draw.lotOf(left.lotId);
    if (lot)
      await writeMove(
        trx,
        { ...lot, kind: 'scrap', quantity: -left.quantity },
        { ...context, reason: because('left-over') },
      );
  }

  await bookSmallParts(trx, request.small ?? [], { placeId: p.placeId, today }, context);
  await releaseKit(trx, acting, job.id, 'job-finished');

  // Visits that an earlier change asked for have no object any more.
  await trx('follow_up')
    .where({ instrument_id: job.instrument_id, status: 'open' })
    .update({ status: 'cancelled', cancelled_by_record_id: recordId });
  const fitted = p.plan.drawn.length > 0 || refit;
  const visits = (fitted ? visitsAfterChange(p.instrument.build.bridge, job.kind === 'fast-path') : []).map((v) => ({
    ...v,
    dueAt: laterByClock(at, v.afterHours, programme.time_zone),
  }));
  for (const visit of visits) {
    await trx('follow_up').insert({
      instrument_id: job.instrument_id,
      record_id: recordId,
      kind: visit.kind,
      day: visit.day,
      due_at: visit.dueAt,
      due_on: localDate(visit.dueAt, programme.time_zone),
      status: 'open',
    });
  }
  await answerReports(trx, job.instrument_id, recordId, request.entries);
  // Strings that went on anew came off before: whatever they were to come off for is done.
  await answerRequests(trx, job.instrument_id, allKept ? ['refit'] : ['refit', 'service'], recordId);
  await trx('job')
    .where({ id: job.id })
    .update({ status: 'finished', version: job.version + 1 });
  await refreshInstrument(trx, job.instrument_id, { now: acting.now, timeZone: programme.time_zone });
  const readyAt = Math.max(
    0,
    ...p.plan.drawn.map((d) =>
      settledAt({ core: (p.products.get(Number(d.productId)) as StringProduct).core, fittedAt: at }),
    ),
  );
  return {
    recordId,
    jobVersion: job.version + 1,
    readyAt: readyAt || null,
    visits: visits.map(({ kind, day, dueAt }) => ({ kind, day, dueAt })),
  };
}

/** Open reports that this change answers: a broken string that was dealt with, a complaint about strings now new. */
async function answerReports(
  trx: Knex,
  instrumentId: number,
  recordId: number,
  entries: readonly FinishEntry[],
): Promise<void> {
  const changed = new Set(entries.filter((e) => e.action !== 'kept').map((e) => e.number));
  for (const report of await trx('report').where({ instrument_id: instrumentId }).whereNull('closed_by_record_id')) {
    const numbers = columns.numbers.read(report.numbers);
    const answered =
      report.kind === 'broken' ? numbers.every((n) => changed.has(n)) : entries.some((e) => e.action === 'fit');
    if (answered) await trx('report').where({ id: report.id }).update({ closed_by_record_id: recordId });
  }
}
