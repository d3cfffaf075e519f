import type { Knex } from 'knex';
import type { CloseCase, FoundFault } from '../../contract/bench';
import type { LocalDate } from '../../core/dates';
import { diagnose, type RankedCause, symptomsFor } from '../../core/faults/diagnose';
import { type Named, sayNamed } from '../../core/faults/named';
import type { FaultFacts, NextStep } from '../../core/faults/types';
import { tagPath } from '../../core/instruments/tag';
import { stringNumbers } from '../../core/procedures/numbers';
import { SAFETY } from '../../core/safety/topics';
import { lifeUsed } from '../../core/wear/exposure';
import { openJob } from '../bench/jobs';
import { lastMethods } from '../bench/procedure';
import { laterByClock, localDate } from '../clock';
import { type Acting, change, insertId } from '../db/change';
import * as columns from '../db/columns';
import { must } from '../db/must';
import { conflict, notFound, refused } from '../errors';
import { stringToFit } from '../fleet/fit';
import { type Instrument, loadInstrument, loadProducts } from '../fleet/instruments';
import { stateFacts } from '../fleet/state';
import { loadHouse } from '../methods/houseMethods';
import { programmeRow } from '../programme/programme';
import { endAway } from './away';
import { nextStep } from './referral';

/** Everything on record that speaks for or against a cause on this instrument. */
export async function factsOf(
  db: Knex,
  instrument: Instrument,
  number: number | null,
  at: { now: number; today: LocalDate },
): Promise<FaultFacts> {
  const products = await loadProducts(
    db,
    instrument.positions.flatMap((p) => [p.now.productId, p.houseProductId]),
  );
  const { house } = await loadHouse(db, instrument.build.family);
  const last = (await lastMethods(db, [instrument.id])).get(instrument.id) ?? null;
  const place = must(await db('place').where({ id: instrument.placeId }).first());
  const state = must(await db('instrument_state').where({ instrument_id: instrument.id }).first());
  const facts = stateFacts.read(state.facts);
  const entries = await db('string_entry as e')
    .join('standing_record as r', 'r.id', 'e.record_id')
    .where({ 'e.instrument_id': instrument.id, 'e.action': 'fit' })
    .orderBy('e.id', 'desc')
    .select('e.number', 'e.product_id');
  // Trouble at the bench and at the fault desk, by string: where it broke or slipped shows up over many jobs.
  const troubles = await db('fault_case')
    .where({ instrument_id: instrument.id })
    .whereNotNull('number')
    .pluck('number');
  const reported = (await db('report').where({ instrument_id: instrument.id, kind: 'broken' })).flatMap((r): number[] =>
    columns.numbers.read(r.numbers),
  );
  const times = (n: number) => [...troubles, ...reported].filter((x) => x === n).length;
  const strings = instrument.positions.flatMap((p) => {
    const product = products.get(p.now.productId ?? p.houseProductId ?? -1);
    if (!product) return [];
    const [latest, before] = entries.filter((e) => e.number === p.number);
    return [
      {
        number: p.number,
        core: product.core,
        wound: product.wrap !== null,
        gaugeMm: product.gaugeMm,
        hoursOn: p.now.fittedAt === null ? null : (at.now - p.now.fittedAt) / 3_600_000,
        changedKind: latest && before ? latest.product_id !== before.product_id : null,
        timesBefore: Math.max(0, times(p.number) - 1),
      },
    ];
  });
  const meant = instrument.build.positions.find((p) => p.number === number);
  const product = products.get(instrument.positions.find((p) => p.number === number)?.now.productId ?? -1);
  const oldest = instrument.positions.reduce<number | null>(
    (first, p) => (p.now.fittedAt === null ? first : Math.min(first ?? p.now.fittedAt, p.now.fittedAt)),
    null,
  );
  const programme = await programmeRow(db);
  return {
    build: instrument.build,
    strings,
    number,
    lastMethod: last && {
      winds: last.winds,
      leaveMm: last.trim.leaveMm,
      stretchRounds: last.stretchRounds,
      atATime: last.atATime,
    },
    dryRoom: place.climate === 'dry' ? true : null,
    turns:
      meant && product
        ? stringNumbers(instrument.build, last ?? house.method, meant, stringToFit(meant, product, false)).winds.turns
        : null,
    lifeUsed:
      oldest === null
        ? null
        : lifeUsed({
            rule: facts.rule,
            use: facts.use,
            fittedOn: localDate(oldest, programme.time_zone),
            today: at.today,
          }).used,
  };
}

/** A case that is not closed: something a person said would be done. */
export interface OpenCase {
  id: number;
  version: number;
  on: LocalDate;
  by: string;
  symptom: string;
  cause: string;
  number: number | null;
  next: NextStep;
  note: string;
  /** Who looked and what was found, once it is closed. */
  checkedBy: string;
  found: string;
}

export async function openCases(db: Knex, instrumentId: number): Promise<OpenCase[]> {
  const rows = await db('fault_case as f')
    .join('person as p', 'p.id', 'f.person_id')
    .where({ 'f.instrument_id': instrumentId, 'f.status': 'open' })
    .orderBy('f.id', 'desc')
    .select('f.*', 'p.name');
  return rows.map(caseOf);
}

/** What a case is about, in words; those from before the value was kept have their own. */
const causeOf = (r: { symptom: string; cause: string; named: string | null }): string =>
  r.named === null ? r.cause : sayNamed(r.symptom, columns.named.read(r.named));

const caseOf = (r: Record<string, unknown>): OpenCase => ({
  id: r.id as number,
  version: r.version as number,
  on: r.on_day as string,
  by: r.name as string,
  symptom: r.symptom as string,
  cause: causeOf(r as { symptom: string; cause: string; named: string | null }),
  number: r.number as number | null,
  next: nextStep.read(r.next as string),
  note: r.note as string,
  checkedBy: r.checked_by as string,
  found: r.found as string,
});

/** A case with the tag of its instrument, for its printed note. @throws UserError not-found */
export async function loadCase(db: Knex, id: number): Promise<OpenCase & { tag: string; status: string }> {
  const row = await db('fault_case as f')
    .join('person as p', 'p.id', 'f.person_id')
    .join('instrument as i', 'i.id', 'f.instrument_id')
    .where('f.id', id)
    .select('f.*', 'p.name', 'i.tag')
    .first();
  if (!row) throw notFound('This case');
  return { ...caseOf(row), tag: row.tag, status: row.status };
}

/** What waits for somebody qualified: of one place, the longest waiting first. */
export async function waitingCases(
  db: Knex,
  placeId: number,
  most: number,
): Promise<{ id: number; tag: string; on: LocalDate; to: string; says: string }[]> {
  const rows = await db('fault_case as f')
    .join('instrument as i', 'i.id', 'f.instrument_id')
    .where({ 'f.status': 'open', 'i.place_id': placeId })
    .orderBy('f.id')
    .limit(most)
    .select('f.id', 'f.on_day', 'f.next', 'f.symptom', 'f.cause', 'f.named', 'i.tag');
  return rows.map((r) => {
    const next = nextStep.read(r.next);
    const topic = next.kind === 'referral' ? next.topic : undefined;
    return {
      id: r.id,
      tag: r.tag,
      on: r.on_day,
      to: next.kind === 'referral' ? next.to : 'a qualified repairer',
      says: topic === 'post-check' ? SAFETY[topic].name : causeOf(r),
    };
  });
}

/** Writes a case; for use inside another change. */
export async function openCase(
  trx: Knex,
  acting: Acting,
  p: {
    instrumentId: number;
    on: LocalDate;
    symptom: string;
    number: number | null;
    named: Named;
    next: NextStep;
    note: string;
    jobId: number | null;
  },
): Promise<number> {
  return insertId(trx, 'fault_case', {
    instrument_id: p.instrumentId,
    person_id: acting.personId,
    at: acting.now,
    on_day: p.on,
    symptom: p.symptom,
    number: p.number,
    cause: '',
    named: columns.named.write(p.named),
    next: JSON.stringify(p.next),
    note: p.note,
    job_id: p.jobId,
    // What needs nothing more is on record and done.
    status: p.next.kind === 'referral' ? 'open' : 'closed',
  });
}

/** Somebody looked, and this is the cause: what follows is set going. */

/**
 * Records what was found at the fault desk and does what follows: opens the job, sets the visit, or refers it.
 * @throws UserError when the symptom or the cause does not fit the instrument
 */
export async function recordFault(
  db: Knex,
  acting: Acting,
  request: FoundFault,
): Promise<{ caseId: number; jobId: number | null; location: string }> {
  return change(db, acting, 'fault.record', request, async (trx) => {
    const instrument = await loadInstrument(trx, { tag: request.tag });
    const programme = await programmeRow(trx);
    const today = localDate(acting.now, programme.time_zone);
    const facts = await factsOf(trx, instrument, request.number, { now: acting.now, today });
    const cause = causesFor(request.symptom, facts).find((c) => c.id === request.cause);
    if (!cause)
      throw refused('no-cause', 'No such cause', 'That cannot cause this fault here. Choose one from the list.');
    const { next } = cause;
    const numbers = request.number === null ? undefined : [request.number];
    if (next.kind === 'job' && next.job === 'one-string' && !numbers)
      throw refused('which-string', 'Which string?', 'Choose which string it is; the work starts on that one.');
    const jobId =
      next.kind === 'job'
        ? (
            await openJob(
              trx,
              { ...acting, key: `${acting.key}/job` },
              { tag: request.tag, kind: next.job, ...(next.job === 'full-set' || !numbers ? {} : { numbers }) },
            )
          ).jobId
        : null;
    if (next.kind === 'follow-up') {
      const dueAt = laterByClock(acting.now, next.afterHours, programme.time_zone);
      await trx('follow_up').insert({
        instrument_id: instrument.id,
        record_id: null,
        kind: next.visit,
        day: Math.max(1, Math.round(next.afterHours / 24)),
        due_at: dueAt,
        due_on: localDate(dueAt, programme.time_zone),
        status: 'open',
        note: next.why,
      });
    }
    const caseId = await openCase(trx, acting, {
      instrumentId: instrument.id,
      on: today,
      symptom: request.symptom,
      number: request.number,
      named: { of: 'cause', id: cause.id },
      next,
      note: request.note,
      jobId,
    });
    const location =
      jobId !== null
        ? `/bench/${jobId}`
        : next.kind === 'referral'
          ? `/faults/cases/${caseId}`
          : `/instruments/${tagPath(request.tag)}`;
    return { result: { caseId, jobId, location }, entity: 'fault_case', entityId: caseId };
  });
}

/** The causes of a symptom here. @throws UserError when the symptom cannot be */
export function causesFor(symptom: string, facts: FaultFacts): RankedCause[] {
  if (!symptomsFor(facts.build).some((s) => s.id === symptom))
    throw refused(
      'no-symptom',
      'No such fault',
      'This fault cannot happen on this instrument. Choose one from the list.',
    );
  return diagnose(symptom, facts);
}

/**
 * Closes a case that came back, with who looked at it. What was handed on to somebody qualified stays open until it is
 * said who that was.
 * @throws UserError conflict when somebody did it first, `nobody-looked` for a referral without a name
 */
export async function closeCase(
  db: Knex,
  acting: Acting,
  p: CloseCase & { caseId: number },
): Promise<{ closed: true }> {
  return change(db, acting, 'fault.close', p, async (trx) => {
    const row = await trx('fault_case').where({ id: p.caseId }).first();
    if (!row) throw notFound('This case');
    if (row.version !== p.expectedVersion || row.status !== 'open')
      throw conflict('Someone else has already closed this case.', { currentVersion: row.version });
    const next = nextStep.read(row.next);
    if (next.kind === 'referral' && p.checkedBy.length < 2)
      throw refused(
        'nobody-looked',
        'Who checked it?',
        `It was referred to ${next.to}. Enter who checked it; until then the case stays open.`,
      );
    await endAway(trx, p.caseId, localDate(acting.now, (await programmeRow(trx)).time_zone));
    await trx('fault_case')
      .where({ id: p.caseId })
      .update({
        status: 'closed',
        closed_by: acting.personId,
        closed_at: acting.now,
        checked_by: p.checkedBy,
        found: p.found,
        version: row.version + 1,
      });
    return { result: { closed: true as const }, entity: 'fault_case', entityId: p.caseId };
  });
}
