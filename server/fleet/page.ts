import type { Knex } from 'knex';
import type { LocalDate } from '../../core/dates';
import { describeBuild } from '../../core/instruments/build';
import { stringNumbers } from '../../core/procedures/numbers';
import type { Gap } from '../../core/procedures/types';
import { liesOn } from '../../core/procedures/words';
import { type CreepFit, fitCreep, type Retune, visitDays } from '../../core/settling/creep';
import type { VisitKind } from '../../core/settling/readyBy';
import type { CoreMaterial } from '../../core/strings/materials';
import { type Due, playHours } from '../../core/wear/due';
import type { Climate } from '../../core/wear/exposure';
import type { Readiness } from '../../core/wear/readiness';
import { type StripString, stripAt } from '../../core/wear/strip';
import { longReason, sayAge, shortReason } from '../../core/wear/words';
import { sayRecord } from '../../core/work/done';
import { besideOf } from '../bench/finishWords';
import { previewJob } from '../bench/jobs';
import { localDate } from '../clock';
import { among } from '../db/among';
import * as columns from '../db/columns';
import { must } from '../db/must';
import { type OpenCase, openCases } from '../faults/cases';
import { type Referral, referralsOf } from '../faults/referral';
import { loadHouse } from '../methods/houseMethods';
import type { Programme } from '../programme/programme';
import { type DueWorkHere, dueWorkOf } from '../work/due';
import { stringToFit } from './fit';
import { findByTag, type Instrument, loadInstrument, loadProducts } from './instruments';
import { periodsOf } from './list';
import { readinessOfMany } from './readiness';
import { measuredSettledAt, retunesOf, stateFacts } from './state';

export interface PositionLine {
  number: number;
  note: string;
  side: string;
  state: StripString['state'];
  life: number;
  product: string;
  gaugeMm: number | null;
  half: boolean;
  since: LocalDate | null;
  age: string | null;
  by: string | null;
  tensionN: number | null;
  /** Set where the string on is not the house string. */
  houseProduct: string | null;
}

export interface HistoryLine {
  recordId: number;
  kind: 'change' | 'correction' | 'look';
  at: number;
  on: LocalDate;
  by: string;
  summary: string;
  notes: string[];
  /** Who recorded it. */
  personId: number;
  minutes: number | null;
  strings: number;
  costCents: number;
  takenBack: boolean;
  canTakeBack: boolean;
}

export interface SettlingCurve {
  number: number;
  note: string;
  core: CoreMaterial;
  fittedAt: number;
  retunes: Retune[];
  fit: CreepFit;
  /** Days after which to look in again so that it is never far off. */
  visitDays: number[];
}

export interface InstrumentPage {
  instrument: Instrument;
  /** Loans that are under way or ahead. */
  loans: { id: number; from: LocalDate; to: LocalDate; why: string }[];
  name: string;
  place: string;
  climate: Climate;
  setName: string | null;
  /** Its house set or hybrid, how many sealed packs of it there are anywhere, and what else its family could have. */
  houseSet: { productId: number; sealed: number } | null;
  otherSets: { productId: number; name: string }[];
  strip: StripString[];
  positions: PositionLine[];
  tensionN: number | null;
  due: Due;
  because: string;
  reason: string;
  ready: { at: number; string: string } | null;
  /** What may be said of it on a label. */
  readiness: Readiness;
  /** The string that settles last, with what was measured and what is expected; null when nothing settles. */
  settling: SettlingCurve | null;
  hoursPerWeek: number;
  reports: { on: LocalDate; by: string; kind: string; text: string }[];
  visits: { id: number; kind: VisitKind; day: number; dueOn: LocalDate; version: number }[];
  history: HistoryLine[];
  historyTotal: number;
  openJob: { id: number; by: string; at: number } | null;
  method: { minutes: number; steps: number; adapted: string[]; version: number } | { gaps: Gap[] };
  cases: OpenCase[];
  /** What stands in front of every work on it. */
  referral: Referral | null;
  /** What is to be done when it is due; with the advice where one string broke. */
  work: DueWorkHere;
}

const HISTORY_SHOWN = 20;

function curveOf(
  string: { number: number; core: CoreMaterial; fittedAt: number },
  note: string,
  retunes: Retune[],
): SettlingCurve {
  const fit = fitCreep(string.core, retunes);
  return { ...string, note, retunes, fit, visitDays: visitDays(fit.median, Math.max(1, fit.readyDays.late), 3) };
}

/** What is left to say of an instrument that is not in the programme any more. */
export interface GonePage {
  tag: string;
  name: string;
  on: LocalDate;
  why: string;
  history: { on: LocalDate; by: string; summary: string; takenBack: boolean }[];
}

/** An instrument that was sold, lost or written off; null where it is here, or nobody has the tag. */
export async function gonePage(db: Knex, tag: string): Promise<GonePage | null> {
  const row = await findByTag(db, tag);
  if (!row?.retired_on) return null;
  const records = await db('change_record as r')
    .join('person as p', 'p.id', 'r.person_id')
    .where('r.instrument_id', row.id)
    .orderBy([
      { column: 'r.at', order: 'desc' },
      { column: 'r.id', order: 'desc' },
    ])
    .limit(200)
    .select('r.on_day', 'r.kind', 'r.done', 'r.taken_back', 'p.name');
  return {
    tag: row.tag,
    name: describeBuild(row.family, row.size),
    on: row.retired_on,
    why: row.retired_why,
    history: records.map((r) => ({
      on: r.on_day,
      by: r.name,
      summary: sayRecord(r.kind, columns.done.read(r.done)),
      takenBack: Boolean(r.taken_back),
    })),
  };
}

/** Everything the instrument page says. @throws UserError not-found */
export async function instrumentPage(
  db: Knex,
  tag: string,
  at: { today: LocalDate; now: number; programme: Pick<Programme, 'timeZone' | 'a4Hz'> },
): Promise<InstrumentPage> {
  const instrument = await loadInstrument(db, { tag });
  const id = instrument.id;
  const state = must(await db('instrument_state').where({ instrument_id: id }).first());
  const place = must(await db('place').where({ id: instrument.placeId }).first());
  const products = await loadProducts(
    db,
    instrument.positions.flatMap((p) => [p.now.productId, p.houseProductId]),
  );
  const use = (await periodsOf(db, [id])).get(id) ?? [];
  const work = (await dueWorkOf(db, [id], at.today)).get(id) as DueWorkHere;
  const { due } = work;
  const strip = stripAt(columns.strip.read(state.strip), at.today, at.now);
  const { method } = (await loadHouse(db, instrument.build.family)).house;
  const entryIds = instrument.positions.map((p) => p.now.entryId).filter((e) => e !== null);
  const fitters = new Map(
    (
      await db('string_entry as e')
        .join('change_record as r', 'r.id', 'e.record_id')
        .join('person as p', 'p.id', 'r.person_id')
        .whereIn('e.id', among(db, entryIds))
        .select('e.id', 'p.name')
    ).map((r) => [r.id as number, r.name as string]),
  );
  const noteOf = new Map(instrument.positions.map((p) => [p.number, p.note]));

  const positions = instrument.positions.map((p, index): PositionLine => {
    const product = p.now.productId === null ? null : (products.get(p.now.productId) ?? null);
    const house = p.houseProductId === null ? null : (products.get(p.houseProductId) ?? null);
    const line = strip[index] as StripString;
    const since = p.now.fittedAt === null ? null : localDate(p.now.fittedAt, at.programme.timeZone);
    const buildPosition = instrument.build.positions[index];
    return {
      number: p.number,
      note: p.note,
      side: liesOn(instrument.build, p.number),
      state: line.state,
      life: line.life,
      product: p.now.state === 'missing' ? 'no string fitted' : (product?.name ?? 'not known'),
      gaugeMm: product?.gaugeMm ?? null,
      half: p.now.half,
      since,
      age: since ? sayAge(since, at.today) : null,
      by: p.now.entryId === null ? null : (fitters.get(p.now.entryId) ?? null),
      tensionN:
        product && buildPosition && p.now.state === 'on'
          ? stringNumbers(
              instrument.build,
              method,
              buildPosition,
              stringToFit(p, product, p.now.half),
              at.programme.a4Hz,
            ).tensionN
          : null,
      houseProduct: house && product && house.id !== product.id ? house.name : null,
    };
  });

  const records = await db('change_record as r')
    .join('person as p', 'p.id', 'r.person_id')
    .where('r.instrument_id', id)
    .orderBy('r.at', 'desc')
    .orderBy('r.id', 'desc')
    .limit(HISTORY_SHOWN)
    .select('r.*', 'p.name');
  const recordIds = records.map((r) => r.id);
  const total = await db('change_record').where({ instrument_id: id }).count({ n: '*' }).first();
  const sums = new Map(
    (
      await db('string_entry')
        .whereIn('record_id', among(db, recordIds))
        .where({ action: 'fit' })
        .groupBy('record_id')
        .select('record_id')
        .count({ strings: '*' })
        .sum<{ record_id: number; strings: number; cost: number }[]>({ cost: 'cost_cents' })
    ).map((r) => [r.record_id, { strings: Number(r.strings), cost: Number(r.cost) }]),
  );
  const notes = await db('record_note as n')
    .join('person as p', 'p.id', 'n.person_id')
    .whereIn('n.record_id', among(db, recordIds))
    .orderBy('n.id')
    .select('n.*', 'p.name');
  const corrected = new Set(
    (await db('change_record').where({ instrument_id: id }).whereIn('corrects_id', among(db, recordIds))).map(
      (r) => r.corrects_id as number,
    ),
  );
  const latestStanding = records.find((r) => r.kind === 'change' && !corrected.has(r.id))?.id;

  const openJob = await db('job as j')
    .join('person as p', 'p.id', 'j.opened_by')
    .where({ 'j.instrument_id': id, 'j.status': 'open' })
    .select('j.*', 'p.name')
    .first();
  const settling = instrument.positions.flatMap((p) => {
    const product = p.now.productId === null ? undefined : products.get(p.now.productId);
    return product && p.now.fittedAt !== null && p.now.state === 'on'
      ? [{ number: p.number, core: product.core, fittedAt: p.now.fittedAt }]
      : [];
  });
  const retunes = (await retunesOf(db, [instrument])).get(instrument.id) ?? new Map<number, Retune[]>();
  // The last to settle by what was measured; by its core where nothing was.
  const last = settling
    .map((s) => ({ ...s, at: measuredSettledAt(s.core, s.fittedAt, retunes.get(s.number) ?? []) }))
    .sort((a, b) => b.at - a.at)[0];
  const ready = last && last.at > at.now ? last : null;
  const { composed, version } = await previewJob(db, instrument, {}, at.programme.a4Hz);
  const facts = {
    today: at.today,
    rule: stateFacts.read(state.facts).rule,
    hoursUsed: due.since ? playHours(use, due.since, at.today) : 0,
    nameOf: (n: number) => noteOf.get(n) ?? `string ${n}`,
  };
  const set = instrument.houseSetId ? await db('product').where({ id: instrument.houseSetId }).first() : null;
  const reports = await db('report as r')
    .join('person as p', 'p.id', 'r.person_id')
    .where('r.instrument_id', id)
    .whereNull('r.closed_by_record_id')
    .orderBy('r.at')
    .select('r.*', 'p.name');
  const visits = await db('follow_up').where({ instrument_id: id, status: 'open' }).orderBy('due_at');
  const cases = await openCases(db, id);
  const referral = (await referralsOf(db, [id])).get(id)?.[0] ?? null;
  const pulls = positions.map((p) => p.tensionN);
  const loans = await db('instrument_busy')
    .where({ instrument_id: id, kind: 'loan' })
    .where('to_on', '>=', at.today)
    .orderBy('from_on')
    .limit(5)
    .select('id', 'from_on', 'to_on', 'why');
  return {
    instrument,
    loans: loans.map((l) => ({ id: l.id, from: l.from_on, to: l.to_on, why: l.why })),
    name: describeBuild(instrument.build.family, instrument.build.size),
    place: place.name,
    climate: place.climate,
    setName: set?.name ?? null,
    houseSet: set
      ? {
          productId: set.id,
          sealed: Number(
            (
              await db('lot_balance as b')
                .join('lot as l', 'l.id', 'b.lot_id')
                .where({ 'l.product_id': set.id, 'l.form': 'set' })
                .sum({ n: 'b.on_hand' })
                .first()
            )?.n ?? 0,
          ),
        }
      : null,
    otherSets: (
      await db('product')
        .whereIn('kind', ['set', 'hybrid'])
        .where({ family: instrument.build.family })
        .whereNull('retired_on')
        .orderBy('name')
        .select('id', 'name')
    ).map((r) => ({ productId: r.id, name: r.name })),
    strip,
    positions,
    tensionN: pulls.every((t) => t !== null) ? pulls.reduce((a, b) => a + (b ?? 0), 0) : null,
    due,
    because: shortReason(due, facts),
    reason: longReason(due, facts),
    ready: ready ? { at: ready.at, string: noteOf.get(ready.number) ?? '' } : null,
    readiness: must((await readinessOfMany(db, [id], at)).get(id)),
    settling: ready ? curveOf(ready, noteOf.get(ready.number) ?? '', retunes.get(ready.number) ?? []) : null,
    hoursPerWeek: use.find((u) => u.toDay === null)?.hoursPerWeek ?? 0,
    reports: reports.map((r) => ({ on: r.on_day, by: r.name, kind: r.kind, text: r.text })),
    visits: visits.map((v) => ({ id: v.id, kind: v.kind, day: v.day, dueOn: v.due_on, version: v.version })),
    history: records.map((r) => ({
      recordId: r.id,
      kind: r.kind,
      at: r.at,
      on: r.on_day,
      by: r.name,
      personId: r.person_id,
      summary: sayRecord(r.kind, columns.done.read(r.done)),
      notes: [
        r.notes,
        ...(r.kind === 'correction' ? [] : besideOf(r)),
        ...notes.filter((n) => n.record_id === r.id).map((n) => `${n.name}: ${n.text}`),
      ].filter(Boolean),
      minutes: r.minutes,
      strings: sums.get(r.id)?.strings ?? 0,
      costCents: sums.get(r.id)?.cost ?? 0,
      takenBack: corrected.has(r.id),
      canTakeBack: r.id === latestStanding && !openJob,
    })),
    historyTotal: Number(total?.n ?? 0),
    openJob: openJob ? { id: openJob.id, by: openJob.name, at: openJob.opened_at } : null,
    cases,
    referral,
    work,
    method:
      'procedure' in composed
        ? {
            minutes: composed.procedure.minutes,
            steps: composed.procedure.steps.length,
            adapted: composed.procedure.adapted,
            version,
          }
        : composed,
  };
}
