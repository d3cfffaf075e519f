import type { Knex } from 'knex';
import { z } from 'zod';
import type { LocalDate } from '../../core/dates';
import { findableText } from '../../core/find/findable';
import { fitCreep, type Retune } from '../../core/settling/creep';
import { settledAt, settlingDays } from '../../core/settling/readyBy';
import type { CoreMaterial } from '../../core/strings/materials';
import { conditionOf } from '../../core/wear/condition';
import {
  type CareRule,
  type Concert,
  type Due,
  dueOf,
  type Inspection,
  type OpenReport,
  type UsePeriod,
} from '../../core/wear/due';
import { type Climate, exposedRule } from '../../core/wear/exposure';
import type { KeptString } from '../../core/wear/strip';
import { dueWork } from '../../core/work/due';
import { localDate } from '../clock';
import { among } from '../db/among';
import * as columns from '../db/columns';
import { must } from '../db/must';
import { transact } from '../db/transact';
import { loadHouses } from '../methods/houseMethods';
import { refreshHalves } from './halves';
import { type Instrument, loadMany, loadProducts, type StringProduct } from './instruments';
import { intervalsSet } from './intervals';

/** What a state is computed from. */
export interface StateInput {
  instrument: Instrument;
  products: ReadonlyMap<number, StringProduct>;
  rule: CareRule;
  climate: Climate;
  inspection: Inspection | null;
  /** Retunes logged since they went on, by string; empty where nobody logged any. */
  retunes: ReadonlyMap<number, readonly Retune[]>;
  use: UsePeriod[];
  reports: OpenReport[];
  concerts: Concert[];
  placeName: string;
  setName: string;
  /** The last change that stands, and the job it was recorded of. */
  changed: { on: LocalDate; done: string; jobId: number | null } | null;
  timeZone: string;
}

/** What the words about a due date need, kept beside it so that a list reads one table. */
export interface StateFacts {
  rule: CareRule;
  use: UsePeriod[];
  notes: Record<number, string>;
}

export const stateFacts = columns.columnOf<StateFacts>(
  'what a due date is counted from',
  z.looseObject({
    rule: z.looseObject({ calendarDays: z.number() }),
    use: z.array(z.looseObject({})),
    notes: z.looseObject({}),
  }),
);

/**
 * When a string has settled: by the retunes logged, so that it holds in nine cases of ten; by the careful figure of its
 * core while nothing was measured.
 */
export function measuredSettledAt(core: CoreMaterial, fittedAt: number, retunes: readonly Retune[]): number {
  const last = retunes.at(-1);
  if (!last) return settledAt({ core, fittedAt });
  const fit = fitCreep(core, retunes);
  // A string that slips has not begun to settle: at the earliest it holds as long after this as a new one takes.
  if (fit.slips) return settledAt({ core, fittedAt: fittedAt + last.atDays * 86_400_000 });
  return fittedAt + fit.readyDays.late * 86_400_000;
}

/** When an instrument is due, and its strings as they are kept, from the inputs alone. */
export function dueStateOf(p: StateInput) {
  const { instrument, products } = p;
  const brokenNumbers = new Set(p.reports.filter((r) => r.kind === 'broken').flatMap((r) => r.numbers));
  // Strings that went on together share their day.
  const days = new Map<number, LocalDate>();
  const day = (at: number | null) => {
    if (at === null) return null;
    const known = days.get(at) ?? localDate(at, p.timeZone);
    days.set(at, known);
    return known;
  };
  const strings = instrument.positions.map((position) => ({
    position,
    product: products.get(position.now.productId ?? position.houseProductId ?? -1) ?? null,
    state:
      position.now.state === 'missing'
        ? ('missing' as const)
        : brokenNumbers.has(position.number)
          ? ('broken' as const)
          : ('on' as const),
    fittedOn: day(position.now.fittedAt),
  }));
  const rule = exposedRule(p.rule, {
    climate: p.climate,
    player: instrument.player,
    coated: strings.every((s) => s.product?.coated),
  });
  const cores = strings.map((s) => s.product?.core).filter((c): c is CoreMaterial => c !== undefined);
  const shared = {
    rule,
    use: p.use,
    concerts: p.concerts,
    settlingDays: settlingDays(cores),
    knownSince: instrument.knownSinceOn,
    firstLookOn: instrument.firstLookOn,
  };
  const due = dueOf({
    ...shared,
    reports: p.reports,
    inspection: p.inspection,
    strings: strings.map((s) => ({ number: s.position.number, fittedOn: s.fittedOn, state: s.state })),
  });
  // Strings that went on the same day end the same day.
  const ends = new Map<string, LocalDate>();
  const endOf = (fittedOn: LocalDate): LocalDate => {
    const known = ends.get(fittedOn);
    if (known) return known;
    const alone = dueOf({ ...shared, concerts: [], reports: [], strings: [{ number: 1, fittedOn, state: 'on' }] });
    ends.set(fittedOn, alone.on);
    return alone.on;
  };
  const kept: KeptString[] = strings.map((s) => ({
    number: s.position.number,
    gaugeMm: s.product?.gaugeMm ?? 0.7,
    wound: Boolean(s.product?.wrap),
    state: s.state,
    fittedOn: s.fittedOn,
    endsOn: s.fittedOn ? endOf(s.fittedOn) : null,
    settledAt:
      s.product && s.position.now.fittedAt !== null && s.state === 'on'
        ? measuredSettledAt(s.product.core, s.position.now.fittedAt, p.retunes.get(s.position.number) ?? [])
        : null,
  }));
  const work = dueWork({ due, strings: strings.map((s) => ({ number: s.position.number, state: s.state })) });
  return { due, kept, rule, work, broken: strings.some((s) => s.state !== 'on') };
}

/** The row of instrument_state that follows from the inputs. */
export function stateOf(p: StateInput) {
  const { instrument } = p;
  const { due, kept, rule, broken, work } = dueStateOf(p);
  const readyAt = Math.max(0, ...kept.map((s) => s.settledAt ?? 0));
  return {
    instrument_id: instrument.id,
    tag: instrument.tag,
    place_id: instrument.placeId,
    place_name: p.placeName,
    holder: instrument.holder,
    size: instrument.build.size,
    family: instrument.build.family,
    due_on: due.on,
    due_by: due.by,
    due_work: work.kind,
    to_change: JSON.stringify(work.numbers),
    change_whole: work.whole,
    last_job_id: p.changed?.jobId ?? null,
    due: JSON.stringify(due satisfies Due),
    facts: JSON.stringify({
      rule,
      use: p.use,
      notes: Object.fromEntries(instrument.positions.map((x) => [x.number, x.note])),
    } satisfies StateFacts),
    strip: JSON.stringify(kept),
    broken,
    ready_at: readyAt || null,
    concert_on: due.concert?.on ?? null,
    changed_on: p.changed?.on ?? null,
    changed_done: p.changed?.done ?? null,
    search: findableText({
      tag: instrument.tag,
      family: instrument.build.family,
      size: instrument.build.size,
      rest: [p.placeName, instrument.holder, p.setName, instrument.maker, instrument.model, instrument.serial],
    }),
  };
}

export const periodOf = (row: Record<string, unknown>): UsePeriod => ({
  fromDay: row.from_on as string,
  toDay: row.to_on as string | null,
  hoursPerWeek: row.hours_per_week as number,
});

/** Records that stand: changes that no correction has taken back. */
export function standingRecords(db: Knex, instrumentIds: readonly number[]) {
  return db('standing_record as r').whereIn('r.instrument_id', among(db, instrumentIds)).where({ 'r.kind': 'change' });
}

/** Makes the projections of one instrument anew from its history: what is on it now, and its state. */
export async function refreshInstrument(
  trx: Knex,
  instrumentId: number,
  at: { now: number; timeZone: string },
): Promise<void> {
  const standing = await standingRecords(trx, [instrumentId])
    .select('r.id', 'r.done', 'r.on_day', 'r.job_id')
    .orderBy('r.at', 'desc')
    .orderBy('r.id', 'desc');
  const order = new Map(standing.map((r, index) => [r.id as number, index]));
  const entries = await trx('string_entry').where({ instrument_id: instrumentId }).whereNot({ action: 'kept' });
  const latest = new Map<number, (typeof entries)[number]>();
  for (const entry of entries) {
    const rank = order.get(entry.record_id);
    if (rank === undefined) continue;
    const known = latest.get(entry.number);
    if (!known || rank < (order.get(known.record_id) as number)) latest.set(entry.number, entry);
  }
  const before = await trx('instrument_position').where({ instrument_id: instrumentId });
  for (const position of before) {
    const entry = latest.get(position.number);
    const next = {
      now_state: entry?.action === 'left-off' ? ('missing' as const) : ('on' as const),
      now_entry_id: entry?.id ?? null,
      now_product_id: entry?.product_id ?? null,
      now_half: entry?.half ?? false,
      now_fitted_at: entry?.action === 'fit' ? entry.at : null,
    };
    if (position.now_entry_id === next.now_entry_id && position.now_state === next.now_state) continue;
    await trx('instrument_position').where({ instrument_id: instrumentId, number: position.number }).update(next);
  }

  await refreshHalves(trx, [instrumentId], await loadHouses(trx));
  const last = standing[0];
  await refreshStates(trx, [instrumentId], at, (): StateInput['changed'] =>
    last ? { on: last.on_day, done: last.done, jobId: last.job_id } : null,
  );
}

/** How many instruments are worked out and written at once. */
const AT_ONCE = 200;

/**
 * Makes the states of instruments anew from what they hang on now: their interval, air, players, reports, concerts. What
 * is on them has not changed, else `refreshInstrument`.
 */
export async function refreshStates(
  trx: Knex,
  ids: readonly number[],
  at: { now: number; timeZone: string },
  changed?: (id: number) => StateInput['changed'],
): Promise<void> {
  for (let i = 0; i < ids.length; i += AT_ONCE) {
    const some = ids.slice(i, i + AT_ONCE);
    // What is not here any more has no state: it is neither listed nor due nor planned.
    const gone = new Set(
      await trx('instrument').whereIn('id', among(trx, some)).whereNotNull('retired_on').pluck('id'),
    );
    if (gone.size > 0)
      await trx('instrument_state')
        .whereIn('instrument_id', among(trx, [...gone]))
        .del();
    const here = some.filter((id) => !gone.has(id));
    const rows = (await stateInputs(trx, here, at, changed)).map(stateOf);
    if (rows.length > 0) await trx('instrument_state').insert(rows).onConflict('instrument_id').merge();
  }
}

function grouped<R, K>(rows: readonly R[], key: (row: R) => K): Map<K, R[]> {
  const groups = new Map<K, R[]>();
  for (const row of rows) {
    const own = groups.get(key(row));
    if (own) own.push(row);
    else groups.set(key(row), [row]);
  }
  return groups;
}

/** What the states of instruments are computed from, read together however many they are; in the order of the ids. */
export async function stateInputs(
  db: Knex,
  ids: readonly number[],
  at: { now: number; timeZone: string },
  changed?: (id: number) => StateInput['changed'],
): Promise<StateInput[]> {
  const today = localDate(at.now, at.timeZone);
  const instruments = new Map((await loadMany(db, ids)).map((i) => [i.id, i]));
  const all = [...instruments.values()];
  const of = <T extends string>(table: T) => db(table).whereIn('instrument_id', among(db, ids));
  const products = await loadProducts(
    db,
    all.flatMap((i) => i.positions.flatMap((p) => [p.now.productId, p.houseProductId])),
  );
  const intervals = await intervalsSet(db, all);
  const use = grouped(await of('use_period'), (r) => r.instrument_id);
  const reports = grouped(await of('report').whereNull('closed_by_record_id'), (r) => r.instrument_id);
  const concerts = grouped(
    await db('concert as c')
      .join('concert_instrument as ci', 'ci.concert_id', 'c.id')
      .whereIn('ci.instrument_id', among(db, ids))
      .where('c.on_day', '>=', today)
      .select('c.name', 'c.on_day', 'ci.instrument_id'),
    (r) => r.instrument_id as number,
  );
  const places = new Map((await db('place')).map((p) => [p.id, p]));
  const sets = new Map<number, string>(
    (
      await db('product')
        .whereIn('id', among(db, [...new Set(all.map((i) => i.houseSetId))]))
        .select('id', 'name')
    ).map((p) => [p.id, p.name]),
  );
  // The newest look comes last.
  const looks = new Map((await of('inspection').orderBy('id')).map((r) => [r.instrument_id, r]));
  const known = changed
    ? null
    : new Map(
        (await of('instrument_state').select('instrument_id', 'changed_on', 'changed_done', 'last_job_id')).map((r) => [
          r.instrument_id,
          r.changed_on ? { on: r.changed_on, done: r.changed_done, jobId: r.last_job_id } : null,
        ]),
      );
  const retunes = await retunesOf(db, all);
  return ids.flatMap((id): StateInput[] => {
    const instrument = instruments.get(id);
    if (!instrument) return [];
    const place = must(places.get(instrument.placeId));
    const look = looks.get(id);
    return [
      {
        instrument,
        products,
        rule: must(intervals.get(id)).rule,
        climate: place.climate,
        inspection: look
          ? {
              on: look.on_day,
              score: look.score,
              verdict: look.verdict,
              because: conditionOf(columns.inspection.read(look.answers)).because,
            }
          : null,
        retunes: retunes.get(id) ?? new Map(),
        use: (use.get(id) ?? []).map(periodOf),
        reports: (reports.get(id) ?? []).map((r) => ({
          on: r.on_day,
          kind: r.kind,
          numbers: columns.numbers.read(r.numbers),
        })),
        concerts: (concerts.get(id) ?? []).map((c) => ({ name: c.name, on: c.on_day })),
        placeName: place.name,
        setName: sets.get(instrument.houseSetId ?? -1) ?? '',
        changed: changed ? changed(id) : (known?.get(id) ?? null),
        timeZone: at.timeZone,
      },
    ];
  });
}

/** Retunes logged since the strings that are on went on, by instrument and string. */
export async function retunesOf(
  db: Knex,
  instruments: readonly Instrument[],
): Promise<Map<number, Map<number, Retune[]>>> {
  const result = new Map<number, Map<number, Retune[]>>();
  const fitted = new Map(
    instruments.map((i) => [i.id, new Map(i.positions.map((p) => [p.number, p.now.fittedAt]))] as const),
  );
  const rows = await db('retune_reading')
    .whereIn(
      'instrument_id',
      among(
        db,
        instruments.map((i) => i.id),
      ),
    )
    .orderBy(['at', 'id']);
  for (const row of rows) {
    const since = fitted.get(row.instrument_id)?.get(row.number);
    if (since === null || since === undefined || row.at <= since) continue;
    const own = result.get(row.instrument_id) ?? new Map<number, Retune[]>();
    result.set(row.instrument_id, own);
    const list = own.get(row.number) ?? [];
    const atDays = (row.at - since) / 86_400_000;
    // Two readings at one moment are one reading.
    if (list.length && atDays <= (list.at(-1) as Retune).atDays) continue;
    list.push({ atDays, flatCents: row.flat_cents });
    own.set(row.number, list);
  }
  return result;
}

/** Instruments whose due date hung on a concert that has passed since are looked at again. */
export async function refreshAfterConcerts(db: Knex, at: { now: number; timeZone: string }): Promise<void> {
  const today = localDate(at.now, at.timeZone);
  const stale = await db('instrument_state').where('concert_on', '<', today).pluck('instrument_id');
  if (stale.length > 0) await transact(db, (trx) => refreshStates(trx, stale, at));
}
