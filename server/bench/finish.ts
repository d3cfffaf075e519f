import type { Knex } from 'knex';
import type { CountedPart, Finish, FinishEntry } from '../../contract/bench';
import { tagPath } from '../../core/instruments/tag';
import { saySmallParts } from '../../core/parts/smallParts';
import { isChange, type Method } from '../../core/procedures/types';
import { settledAt, type VisitKind, visitsAfterChange } from '../../core/settling/readyBy';
import type { DrawPlan, Need } from '../../core/stock/draw';
import { laterByClock, localDate } from '../clock';
import { type Acting, change, insertId } from '../db/change';
import * as columns from '../db/columns';
import { must } from '../db/must';
import { conflict, notFound, refused, UserError } from '../errors';
import { halfServes } from '../fleet/fit';
import { type Instrument, loadInstrument, loadProducts, type StringProduct } from '../fleet/instruments';
import { refreshInstrument } from '../fleet/state';
import { loadHouse } from '../methods/houseMethods';
import { answerRequests, reopenRequests } from '../plan/requests';
import { programmeRow } from '../programme/programme';
import { releaseKit, reserveKit, shelfForJob } from '../stock/reserve';
import {
  type PlacedLot,
  receiveLot,
  reverseMoves,
  setContents,
  shelfInReach,
  writeDrawPlan,
  writeMove,
} from '../stock/shelf';
import { bookSmallParts, type SmallUse } from '../stock/smallParts';
import { approvedSubstitutes, nearStrings } from '../stock/substitutes';
import { jobPhases } from './batch';
import { givenAt, requireOpen } from './jobs';
import { type LossRow, lossesOf, returnLosses } from './losses';

/** What happened at one position. */
/** What was done, as the bench sends it, with the job it was done on. */
export type FinishRequest = Finish & { jobId: number };

export interface FinishPreview {
  drawn: { number: number; productId: number; half: boolean; from: string; costCents: number }[];
  leftovers: { key: string; name: string; form: string; quantity: number; worthCents: number }[];
  opens: { name: string; quantity: number; what: 'opens' | 'halves' }[];
  short: {
    number: number;
    productId: number;
    name: string;
    half: boolean;
    substitutes: { productId: number; name: string; onHand: number; tensionChange: number }[];
  }[];
  costCents: number;
  /** Strings used, those that broke on the way among them. */
  used: number;
}

export interface Finished {
  recordId: number;
  jobVersion: number;
  readyAt: number | null;
  visits: { kind: VisitKind; day: number; dueAt: number }[];
}

const FOUND_REASON = 'on the shelf at the bench, not in the book';

interface Prepared {
  instrument: Instrument;
  products: Map<number, StringProduct>;
  needs: (Need & { found: boolean })[];
  /** Lost strings that were taken from the shelf when they broke, and those of them that did not break after all. */
  lost: LossRow[];
  notLost: LossRow[];
  plan: DrawPlan;
  shelf: PlacedLot[];
  placeId: number;
}

/** Works out which lots a finish takes, without writing anything. */
async function prepare(
  db: Knex,
  personId: number,
  job: { id: number; instrument_id: number },
  entries: readonly FinishEntry[],
): Promise<Prepared> {
  const instrumentId = job.instrument_id;
  const taken = await lossesOf(db, job.id);
  const instrument = await loadInstrument(db, { id: instrumentId });
  const numbers = new Set(entries.map((e) => e.number));
  if (
    numbers.size !== entries.length ||
    instrument.positions.some((p) => !numbers.has(p.number)) ||
    numbers.size !== instrument.positions.length
  ) {
    throw refused(
      'positions',
      'Every string needs an answer',
      `${instrument.tag} has strings ${instrument.positions.map((p) => p.number).join(', ')}: say once for each what happened.`,
    );
  }
  const products = await loadProducts(
    db,
    entries.map((e) => e.productId),
  );
  const person = must(await db('person').where({ id: personId }).first());
  // As its card says; a string it does not know is judged by the way in which the job is done.
  const card = must(await db('job').where({ id: job.id }).first());
  const halves = columns.numbers.read(card.halves);
  const method: Method = card.method
    ? columns.method.read(card.method)
    : (await loadHouse(db, instrument.build.family)).house.method;
  const programme = await programmeRow(db);
  const needs = entries.flatMap((entry) => {
    if (entry.action !== 'fit') return [];
    const product = products.get(entry.productId ?? -1);
    if (!product)
      throw refused('product', 'Which string went on?', `Choose the string that went on at position ${entry.number}.`);
    const position = instrument.positions.find((x) => x.number === entry.number);
    const half =
      product.id === position?.houseProductId
        ? halves.includes(entry.number)
        : halfServes(instrument.build, method, entry.number, product, programme.a4_hz);
    const need = {
      number: entry.number,
      productId: String(product.id),
      amount: half ? ('half' as const) : ('whole' as const),
      found: entry.found,
    };
    // What was taken from the shelf when it broke is not taken again.
    const already = taken.filter((l) => l.number === entry.number).length;
    return Array.from({ length: 1 + Math.max(0, entry.broken - already) }, () => need);
  });
  const brokenAt = (number: number) => entries.find((e) => e.number === number)?.broken ?? 0;
  const counts = (loss: LossRow) =>
    taken.filter((l) => l.number === loss.number && l.id <= loss.id).length <= brokenAt(loss.number);
  const { shelf, plan } = await shelfForJob(db, person.place_id, job.id, needs);
  return {
    instrument,
    products,
    needs,
    plan,
    shelf,
    placeId: person.place_id,
    lost: taken.filter(counts),
    notLost: taken.filter((l) => !counts(l)),
  };
}

/** What a finish would take, open and leave over, and where stock does not cover it with the choices there are. */
export async function previewFinish(
  db: Knex,
  personId: number,
  job: { id: number; instrument_id: number },
  entries: readonly FinishEntry[],
): Promise<FinishPreview> {
  const p = await prepare(db, personId, job, entries);
  const names = new Map((await db('product').select('id', 'name')).map((row) => [String(row.id), row.name as string]));
  const nameOf = (id: string) => names.get(id) ?? '';
  const places = new Map((await db('place')).map((row) => [row.id, row.name as string]));
  const placeOf = new Map(p.shelf.map((lot) => [lot.lotId, places.get(lot.placeId) ?? '']));
  const origin = new Map(p.plan.moves.map((m) => [m.lotId, m.fromLotId]));
  const from = (lotId: string): string => {
    const source = origin.get(lotId);
    return placeOf.get(lotId) ?? (source ? from(source) : '');
  };
  return {
    drawn: p.plan.drawn.map((d) => ({
      number: d.number,
      productId: Number(d.productId),
      half: d.amount === 'half',
      from: from(d.lotId),
      costCents: d.costCents,
    })),
    leftovers: p.plan.leftovers.map((l) => ({
      key: `${l.productId}:${l.form}`,
      name: nameOf(l.productId),
      form: l.form,
      quantity: l.quantity,
      worthCents: l.valueCents,
    })),
    opens: p.plan.moves
      .filter((m) => m.kind === 'open-set' || m.kind === 'halve')
      .map((m) => ({
        name: nameOf(m.productId),
        quantity: -m.quantity,
        what: m.kind === 'halve' ? ('halves' as const) : ('opens' as const),
      })),
    short: await Promise.all(
      p.plan.short
        .filter((s) => !p.needs.some((n) => n.found && n.number === s.number))
        .map(async (s) => ({
          number: s.number,
          productId: Number(s.productId),
          name: nameOf(s.productId),
          half: s.amount === 'half',
          substitutes: await substitutesFor(db, p.placeId, p.products.get(Number(s.productId)) as StringProduct),
        })),
    ),
    costCents: [...p.plan.drawn, ...p.lost].reduce((sum, d) => sum + d.costCents, 0),
    used: p.plan.drawn.length + p.lost.length,
  };
}

/** Strings on a shelf in reach that could stand in, with the change in pull: those approved first, then what is near. */
async function substitutesFor(db: Knex, placeId: number, wanted: StringProduct) {
  const approved = (await approvedSubstitutes(db, [wanted.id])).get(wanted.id) ?? [];
  const known = await loadProducts(db, approved);
  const candidates = [
    ...approved.flatMap((id) => known.get(id) ?? []),
    ...(await nearStrings(db, wanted)).filter((c) => !approved.includes(c.id)),
  ];
  const ids = candidates.map((c) => c.id);
  const shelf = await shelfInReach(db, placeId, { productIds: ids });
  const contents = await setContents(db, ids);
  return candidates
    .map((c) => {
      const onHand = shelf.reduce((sum, lot) => {
        if (lot.form === 'set')
          return (
            sum + lot.onHand * (contents.get(lot.productId)?.find((i) => i.productId === String(c.id))?.count ?? 0)
          );
        return lot.productId === String(c.id) ? sum + lot.onHand * (lot.form === 'half' ? 0.5 : 1) : sum;
      }, 0);
      return {
        productId: c.id,
        name: c.name,
        onHand,
        tensionChange: c.massKgPerM / wanted.massKgPerM - 1,
        approved: approved.includes(c.id),
        gap: Math.abs(c.massKgPerM / wanted.massKgPerM - 1),
      };
    })
    .filter((c) => c.onHand >= 1)
    .sort((a, b) => Number(b.approved) - Number(a.approved) || (a.approved ? 0 : a.gap - b.gap))
    .slice(0, 3)
    .map(({ gap: _, approved: __, ...choice }) => choice);
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

/** Records a finished change within a change that is under way. @throws UserError as `finishJob` */
export async function finishIn(trx: Knex, acting: Acting, request: FinishRequest): Promise<Finished> {
  const job = await requireOpen(trx, request.jobId);
  if (job.version !== request.expectedVersion) {
    throw conflict('Someone changed this job while you were on it.', { currentVersion: job.version });
  }
  if (!isChange(job.kind))
    throw refused('no-change', 'No string is changed in this job', 'Reload the bench and finish it there.');
  const refit = job.kind === 'refit';
  if (!refit && !request.entries.some((e) => e.action !== 'kept')) {
    throw refused(
      'nothing-changed',
      'Nothing was changed',
      'No string went on or came off. Put the job away instead of finishing it.',
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
      { personId: acting.personId, now: acting.now, recordId: null, reason: FOUND_REASON },
    );
  }
  const p = foundShort.length ? await prepare(trx, acting.personId, job, request.entries) : first;
  if (p.plan.short.length > 0) {
    const preview = await previewFinish(trx, acting.personId, job, request.entries);
    throw new UserError(
      'stock-short',
      409,
      'The shelf does not cover this',
      'Say for each string that is short where it came from, or what was done instead.',
      { short: preview.short },
    );
  }

  const allKept = request.entries.every((e) => e.action === 'kept');
  const summary = allKept ? 'same strings, off and on again' : await summaryOf(trx, p, request.entries);
  const recordId = await insertId(trx, 'change_record', {
    job_id: job.id,
    instrument_id: job.instrument_id,
    kind: 'change',
    corrects_id: null,
    at,
    on_day: today,
    person_id: acting.personId,
    summary,
    notes: [request.notes, missingWords(request.parts ?? []), smallWords(request.small ?? [])]
      .filter(Boolean)
      .join(' '),
    minutes: request.minutes,
    card_minutes: await cardMinutes(trx, job, request.entries),
    parts: request.parts ? JSON.stringify(request.parts) : null,
  });
  await returnLosses(trx, p.notLost, { personId: acting.personId, now: acting.now, jobId: job.id });
  for (const [phase, minutes] of await jobPhases(trx, job.id))
    await trx('job_phase').insert({ job_id: job.id, phase, minutes }).onConflict(['job_id', 'phase']).merge();
  const context = { personId: acting.personId, now: acting.now, recordId, jobId: job.id, reason: '', op: acting.key };
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
        { ...context, reason: 'left over, not kept' },
      );
  }

  await bookSmallParts(trx, request.small ?? [], { placeId: p.placeId, today }, context);
  await releaseKit(trx, acting, job.id, 'spare back, job finished');

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

/** What was put in beside strings, as a sentence; empty where nothing was. */
function smallWords(small: readonly SmallUse[]): string {
  const said = saySmallParts(small);
  return said ? `${said.charAt(0).toUpperCase()}${said.slice(1)}.` : '';
}

/** What is not accounted for, in words; empty when everything is. */
function missingWords(parts: readonly CountedPart[]): string {
  const missing = parts.filter((p) => p.counted !== p.expected);
  if (missing.length === 0) return '';
  return `Not accounted for: ${missing.map((p) => `${p.counted} of ${p.expected}, ${p.part}`).join('; ')}.`;
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

async function summaryOf(trx: Knex, p: Prepared, entries: readonly FinishEntry[]): Promise<string> {
  const fitted = entries.filter((e) => e.action === 'fit');
  const asHouse = p.instrument.positions.every((pos) =>
    fitted.some((e) => e.number === pos.number && e.productId === pos.houseProductId),
  );
  const half = p.plan.drawn.some((d) => d.amount === 'half') ? ', half strings' : '';
  if (asHouse && p.instrument.houseSetId) {
    const set = must(await trx('product').where({ id: p.instrument.houseSetId }).first());
    return `${set.name}${half}`;
  }
  if (fitted.length === 0)
    return `string ${entries
      .filter((e) => e.action === 'left-off')
      .map((e) => e.number)
      .join(', ')} taken off`;
  if (fitted.length === p.instrument.positions.length) return `full set, mixed${half}`;
  const notes = new Map(p.instrument.positions.map((pos) => [pos.number, pos.note]));
  return `${fitted.map((e) => notes.get(e.number)).join(', ')} only${half}`;
}

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
    if (!record) throw refused('not-a-change', 'Nothing to take back', 'This record is not a string change.');
    if (await trx('change_record').where({ instrument_id: record.instrument_id, corrects_id: record.id }).first()) {
      throw conflict('This change has been taken back already.', {});
    }
    const later = await trx('standing_record')
      .where({ instrument_id: record.instrument_id, kind: 'change' })
      .where('id', '>', record.id)
      .first();
    if (later)
      throw refused(
        'later-change',
        'A later change stands on it',
        'Take back the later change of this instrument first.',
      );
    const openJob = await trx('job').where({ instrument_id: record.instrument_id, status: 'open' }).first();
    if (openJob) throw refused('job-open', 'A new job is open', 'Put away the open job of this instrument first.');

    const programme = await programmeRow(trx);
    const correctionId = await insertId(trx, 'change_record', {
      job_id: record.job_id,
      instrument_id: record.instrument_id,
      kind: 'correction',
      corrects_id: record.id,
      at: acting.now,
      on_day: localDate(acting.now, programme.time_zone),
      person_id: acting.personId,
      summary: `taken back: ${record.summary}`,
      notes: request.reason,
      minutes: null,
    });
    const moves = await trx('stock_move').where({ record_id: record.id }).orderBy('id', 'desc');
    await reverseMoves(
      trx,
      moves,
      { personId: acting.personId, now: acting.now, recordId: correctionId, reason: 'change taken back' },
      () =>
        refused(
          'leftover-used',
          'A leftover of it has been used',
          'Another job used what this one left on the shelf. Take that job back first, or count the shelf.',
        ),
    );
    await trx('follow_up')
      .where({ record_id: record.id, status: 'open' })
      .update({ status: 'cancelled', note: 'change taken back' });
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
