import type { Knex } from 'knex';
import { daysBetween, type LocalDate } from '../../core/dates';
import { type Batch, batchesOf, usualMinutes, type Workpiece } from '../../core/procedures/batch';
import { progressOf } from '../../core/procedures/progress';
import { workOrder } from '../../core/procedures/together';
import type { Procedure } from '../../core/procedures/types';
import type { VisitKind } from '../../core/settling/readyBy';
import { drawFor } from '../../core/stock/draw';
import { benchRequest, sayDueWork } from '../../core/work/due';
import { LOOK_MINUTES } from '../../core/work/items';
import { requireSignedOffFor } from '../bench/mayWork';
import { composeJob, type JobRequest, lastMethods, lastTime } from '../bench/procedure';
import { among } from '../db/among';
import { type Acting, change } from '../db/change';
import * as columns from '../db/columns';
import { untilChanged } from '../db/memo';
import { must } from '../db/must';
import { untilWritten } from '../db/written';
import { conflict, notFound, refused } from '../errors';
import { type WaitingWord, waitingWords } from '../faults/byLabel';
import { waitingCases } from '../faults/cases';
import { requireNoReferral } from '../faults/referral';
import { type Instrument, loadInstrument, loadMany, loadProducts, loadTagged } from '../fleet/instruments';
import { type FleetRow, fleetRows } from '../fleet/list';
import { refreshInstrument } from '../fleet/state';
import { loadHouses } from '../methods/houseMethods';
import { goneOn } from '../plan/busy';
import { type PlannedSession, sessionsToday } from '../plan/sessions';
import { programmeRow } from '../programme/programme';
import { setContents, shelfInReach } from '../stock/shelf';
import { dueWorkOf } from '../work/due';

/** More than this is not one day's work; the rest is counted and found in Fleet. */
const MOST_SHOWN = 12;

export interface TodayPiece extends Workpiece {
  row: FleetRow;
  /** What is to be done, such as "look at it first"; empty for a plain full set. */
  what: string;
  /** What the bench is asked for. */
  request: JobRequest;
  jobOpen: boolean;
  procedure: Procedure | null;
  tools: string[];
  consumables: string[];
}

export interface KitLine {
  name: string;
  quantity: number;
  spare: number;
  note: string;
  state: 'ok' | 'last' | 'short';
}

export interface OpenJob {
  jobId: number;
  tag: string;
  place: string;
  by: string;
  at: number;
  /** How many strings are off, and of how many. */
  off: number;
  strings: number;
}

export interface TodayData {
  batches: (Batch<TodayPiece> & { savedMinutes: number })[];
  minutes: number;
  count: number;
  more: number;
  /** Due here and away on loan today. */
  lent: { tag: string; until: LocalDate }[];
  elsewhere: { placeId: number; place: string; count: number }[];
  kit: KitLine[];
  tools: string[];
  visits: {
    id: number;
    version: number;
    tag: string;
    place: string;
    kind: VisitKind;
    day: number;
    dueAt: number;
    dueOn: LocalDate;
  }[];
  reports: { tag: string; place: string; by: string; at: number; kind: string; text: string }[];
  /** Said by labels, anywhere, and read by nobody yet. */
  said: WaitingWord[];
  /** Handed on and not back yet. */
  waiting: Awaited<ReturnType<typeof waitingCases>>;
  /** What the published plan gives people here today, and this person wherever they are. */
  planned: PlannedSession[];
  /** Jobs left open here, and those anywhere that leave an instrument without strings. */
  openJobs: OpenJob[];
}

const dueThere = (db: Knex, placeId: number, horizon: LocalDate) =>
  db('instrument_state as s').where('s.place_id', placeId).where('s.due_on', '<=', horizon);
/** What is lent, or waits for somebody qualified, is due all the same, and nobody here can work on it. */
const withoutLent = (db: Knex, due: Knex.QueryBuilder, today: LocalDate) =>
  due
    .clone()
    .whereNotExists(goneOn(db, 's.instrument_id', today))
    .whereNotIn('s.instrument_id', db('fault_case').where({ status: 'open' }).select('instrument_id'));

/** How many instruments of a place are due by the horizon and there to be worked on. */
export const dueCount = (db: Knex, placeId: number, at: { today: LocalDate; horizon: LocalDate }): Promise<number> =>
  untilWritten(db, `due/${placeId}/${at.today}/${at.horizon}`, async () => {
    const counted = await withoutLent(db, dueThere(db, placeId, at.horizon), at.today)
      .count({ n: '*' })
      .first();
    return Number(counted?.n ?? 0);
  });

/** Instruments asked of a kit at once. */
const MOST_KITTED = 120;

/** Tags of what is due at a place by the horizon and there to be worked on, the longest due first. */
export async function dueTags(
  db: Knex,
  placeId: number,
  at: { today: LocalDate; horizon: LocalDate },
): Promise<string[]> {
  return withoutLent(db, dueThere(db, placeId, at.horizon), at.today)
    .orderBy(['s.due_on', 's.tag'])
    .limit(MOST_KITTED)
    .pluck('s.tag');
}

/** What is the same for everybody at a place is computed once until something is changed; of so many horizons at most. */
const HORIZONS_KEPT = 4;
const MINUTE_MS = 60_000;

/** A day's work at a place: what is due by the horizon in working order, the kit for it, visits and reports. */
export async function todayAt(
  db: Knex,
  placeId: number,
  at: { today: LocalDate; now: number; horizon: LocalDate; personId?: number },
): Promise<TodayData> {
  const slot = daysBetween(at.today, at.horizon) % HORIZONS_KEPT;
  const key = `${at.today}/${at.horizon}/${Math.floor(at.now / MINUTE_MS)}`;
  const shared = await untilChanged(db, `today/${placeId}/${slot}`, key, () => placeDay(db, placeId, at));
  return {
    ...shared,
    planned: await sessionsToday(db, { placeId, personId: at.personId ?? null, today: at.today }),
  };
}

async function placeDay(
  db: Knex,
  placeId: number,
  at: { today: LocalDate; now: number; horizon: LocalDate },
): Promise<Omit<TodayData, 'planned'>> {
  const due = dueThere(db, placeId, at.horizon);
  const dueHere = withoutLent(db, due, at.today);
  const lent = await due
    .clone()
    .join('instrument_busy as b', 'b.instrument_id', 's.instrument_id')
    .where('b.from_on', '<=', at.today)
    .where('b.to_on', '>=', at.today)
    .whereNull('b.from_time')
    .groupBy('s.instrument_id')
    .orderBy('until')
    .select('s.tag')
    .max<{ tag: string; until: LocalDate }[]>({ until: 'b.to_on' });
  const total = await dueCount(db, placeId, at);
  const urgentFirst = db.raw("case when s.due_by in ('broken', 'report') then 0 else 1 end");
  const ids: number[] = await dueHere
    .clone()
    .orderBy([{ column: urgentFirst as never }, { column: 's.due_on' }, { column: 's.tag' }])
    .limit(MOST_SHOWN)
    .pluck('s.instrument_id');

  const rows = new Map((await fleetRows(db, ids, at)).map((r) => [r.tag, r]));
  const instruments = await loadMany(db, ids);
  const products = await loadProducts(
    db,
    instruments.flatMap((i) => i.positions.flatMap((p) => [p.houseProductId, p.now.productId])),
  );
  const houses = await loadHouses(db);
  const lasts = await lastMethods(db, ids);
  const works = await dueWorkOf(db, ids, at.today);
  const openTags = new Set(
    await db('job as j')
      .join('instrument as i', 'i.id', 'j.instrument_id')
      .where('j.status', 'open')
      .whereIn('i.id', among(db, ids))
      .pluck('i.tag'),
  );

  const pieces = instruments.flatMap((instrument): TodayPiece[] => {
    const row = rows.get(instrument.tag);
    const house = houses.get(instrument.build.family)?.house;
    const work = works.get(instrument.id);
    if (!row || !house || !work) return [];
    const { composed } = composeJob({
      instrument,
      house,
      products,
      last: lastTime(lasts.get(instrument.id)),
      request: benchRequest(work),
    });
    const procedure = 'procedure' in composed ? composed.procedure : null;
    return [
      {
        tag: instrument.tag,
        build: instrument.build,
        method: procedure?.method ?? house.method,
        dueOn: row.dueOn,
        urgent: row.dueBy === 'broken' || row.dueBy === 'report',
        minutes:
          (work.kind === 'inspection' ? LOOK_MINUTES : procedure?.minutes) ??
          usualMinutes({
            positions: instrument.build.positions.length,
            bridge: instrument.build.bridge,
          }),
        row,
        what: sayDueWork(work),
        request: benchRequest(work),
        look: work.kind === 'inspection',
        jobOpen: openTags.has(instrument.tag),
        procedure,
        tools: procedure?.tools ?? [],
        consumables: procedure?.consumables ?? [],
      },
    ];
  });
  const batches = batchesOf(pieces).map((b) => ({
    ...b,
    savedMinutes: b.way === 'look' ? 0 : savedTogether(b.pieces),
  }));
  const inOrder = batches.flatMap((b) => b.pieces.map((p) => p.tag));
  const byTag = new Map(instruments.map((i) => [i.tag, i]));

  const elsewhere = await db('instrument_state as s')
    .join('place as p', 'p.id', 's.place_id')
    .whereNot('s.place_id', placeId)
    .where('s.due_on', '<=', at.horizon)
    .groupBy('s.place_id', 'p.name')
    .orderBy('p.name')
    .select('s.place_id', 'p.name')
    .count<{ place_id: number; name: string; n: number }[]>({ n: '*' });
  const visits = await db('follow_up as f')
    .join('instrument as i', 'i.id', 'f.instrument_id')
    .join('place as p', 'p.id', 'i.place_id')
    .where('f.status', 'open')
    .where('f.due_on', '<=', at.today)
    .where('i.place_id', placeId)
    .orderBy('f.due_at')
    .limit(MOST_SHOWN)
    .select('f.*', 'i.tag', 'p.name as place');
  const reports = await db('report as r')
    .join('instrument as i', 'i.id', 'r.instrument_id')
    .join('place as l', 'l.id', 'i.place_id')
    .join('person as p', 'p.id', 'r.person_id')
    .whereNull('r.closed_by_record_id')
    .whereNull('i.retired_on')
    .orderBy('r.at', 'desc')
    .limit(5)
    .select('r.*', 'i.tag', 'l.name as place', 'p.name');
  return {
    batches,
    minutes: batches.reduce((sum, b) => sum + b.minutes, 0),
    count: pieces.length,
    more: total - pieces.length,
    lent: lent.map((l) => ({ tag: l.tag, until: l.until })),
    elsewhere: elsewhere.map((e) => ({ placeId: e.place_id, place: e.name, count: Number(e.n) })),
    kit: await kitFor(
      db,
      { placeId, today: at.today },
      inOrder.map((tag) => byTag.get(tag) as Instrument),
    ),
    tools: [...new Set(pieces.flatMap((p) => [...p.tools, ...p.consumables]))],
    visits: visits.map((v) => ({
      id: v.id,
      version: v.version,
      tag: v.tag,
      place: v.place,
      kind: v.kind,
      day: v.day,
      dueAt: v.due_at,
      dueOn: v.due_on,
    })),
    reports: reports.map((r) => ({ tag: r.tag, place: r.place, by: r.name, at: r.at, kind: r.kind, text: r.text })),
    said: await waitingWords(db, MOST_SHOWN),
    waiting: await waitingCases(db, placeId, MOST_SHOWN),
    openJobs: await openJobs(db, placeId),
  };
}

/** Minutes that working these together saves. */
function savedTogether(pieces: readonly TodayPiece[]): number {
  const cards = pieces.flatMap((p, id) => (p.procedure ? [{ id, build: p.build, procedure: p.procedure }] : []));
  return cards.length > 1 ? workOrder(cards).savedMinutes : 0;
}

/** Open jobs of a place, and of any place where strings are off: an instrument unstrung is everybody's. */
async function openJobs(db: Knex, placeId: number): Promise<OpenJob[]> {
  const rows = await db('job as j')
    .join('instrument as i', 'i.id', 'j.instrument_id')
    .join('place as l', 'l.id', 'i.place_id')
    .join('person as p', 'p.id', 'j.opened_by')
    .leftJoin('procedure_snapshot as s', 's.hash', 'j.procedure_hash')
    .where('j.status', 'open')
    .orderBy('j.opened_at')
    .limit(40)
    .select('j.id', 'j.opened_at', 'j.strings', 'i.tag', 'i.place_id', 'l.name as place', 'p.name', 's.body');
  const answers = await db('job_answer')
    .whereIn(
      'job_id',
      among(
        db,
        rows.map((r) => r.id),
      ),
    )
    .orderBy('id')
    .select('job_id', 'step', 'outcome');
  return rows
    .flatMap((r): (OpenJob & { here: boolean })[] => {
      const steps = r.body ? columns.procedure.read(r.body).steps : [];
      const numbers = columns.numbers.read(r.strings);
      const given = answers.filter((a) => a.job_id === r.id);
      const off = [...progressOf(numbers, steps, given).values()].filter((p) => p === 'off').length;
      return [
        {
          jobId: r.id,
          tag: r.tag,
          place: r.place,
          by: r.name,
          at: r.opened_at,
          off,
          strings: numbers.length,
          here: r.place_id === placeId,
        },
      ];
    })
    .filter((j) => j.here || j.off > 0)
    .map(({ here: _, ...job }) => job);
}

/**
 * What to pull from the shelf for these instruments in their order: sets to open, halves and singles to use, a spare of
 * each set, and what the shelf does not cover.
 */
async function kitFor(
  db: Knex,
  { placeId, today }: { placeId: number; today: LocalDate },
  instruments: readonly Instrument[],
): Promise<KitLine[]> {
  const works = await dueWorkOf(
    db,
    instruments.map((i) => i.id),
    today,
  );
  const needs = instruments.flatMap((instrument) =>
    instrument.positions.flatMap((p) =>
      p.houseProductId === null || !works.get(instrument.id)?.numbers.includes(p.number)
        ? []
        : [
            {
              number: p.number,
              productId: String(p.houseProductId),
              amount: p.houseHalf ? ('half' as const) : ('whole' as const),
            },
          ],
    ),
  );
  if (needs.length === 0) return [];
  const productIds = [...new Set(needs.map((n) => Number(n.productId)))];
  const shelf = await shelfInReach(db, placeId, { productIds, othersToo: true });
  const contents = await setContents(db, productIds);
  const plan = drawFor(needs, shelf, contents);
  const names = new Map((await db('product').select('id', 'name')).map((r) => [String(r.id), r.name as string]));
  const onHand = (productId: string, form: string) =>
    shelf.filter((l) => l.productId === productId && l.form === form).reduce((sum, l) => sum + l.onHand, 0);

  const lines: KitLine[] = [];
  const opened = new Map<string, number>();
  for (const m of plan.moves)
    if (m.kind === 'open-set') opened.set(m.productId, (opened.get(m.productId) ?? 0) - m.quantity);
  for (const [productId, quantity] of opened) {
    const left = onHand(productId, 'set') - quantity;
    lines.push({
      name: names.get(productId) ?? '',
      quantity,
      spare: Math.min(1, left),
      note: left > 0 ? `${left - 1} left in stock` : 'no spare left: order more',
      state: left > 0 ? 'ok' : 'last',
    });
  }
  // Loose strings and halves of one set are said on one line, with what to take of each.
  const existing = new Set(shelf.map((l) => l.lotId));
  const setOf = (productId: string) =>
    [...contents].find(([, items]) => items.some((i) => i.productId === productId))?.[0] ?? productId;
  const loose = new Map<string, { setId: string; half: boolean; byProduct: Map<string, number> }>();
  for (const d of plan.drawn) {
    if (!existing.has(d.lotId)) continue;
    const half = d.amount === 'half';
    const key = `${setOf(d.productId)}/${half}`;
    const line = loose.get(key) ?? { setId: setOf(d.productId), half, byProduct: new Map() };
    line.byProduct.set(d.productId, (line.byProduct.get(d.productId) ?? 0) + 1);
    loose.set(key, line);
  }
  const lastWord = (productId: string) => (names.get(productId) ?? '').split(', ').at(-1) ?? '';
  for (const { setId, half, byProduct } of loose.values()) {
    lines.push({
      name: `${names.get(setId)}, ${half ? 'halves' : 'loose'}`,
      quantity: [...byProduct.values()].reduce((a, b) => a + b, 0),
      spare: 0,
      note: [...byProduct].map(([productId, n]) => `${lastWord(productId)}${n > 1 ? ` × ${n}` : ''}`).join(', '),
      state: 'ok',
    });
  }
  const short = new Map<string, number>();
  for (const s of plan.short) short.set(s.productId, (short.get(s.productId) ?? 0) + 1);
  // Strings of one set that are short together are said once, as sets.
  const shortSets = new Map<string, number>();
  for (const [productId, count] of short) {
    const set = setOf(productId);
    const perSet = contents.get(set)?.find((i) => i.productId === productId)?.count ?? 1;
    shortSets.set(set, Math.max(shortSets.get(set) ?? 0, Math.ceil(count / perSet)));
  }
  for (const [productId, quantity] of shortSets) {
    lines.push({ name: names.get(productId) ?? '', quantity, spare: 0, note: `${quantity} missing`, state: 'short' });
  }
  return lines.sort((a, b) => Number(b.state === 'short') - Number(a.state === 'short'));
}

/** What to pull for these instruments, in this order. */
export async function kitForTags(
  db: Knex,
  at: { placeId: number; today: LocalDate },
  tags: readonly string[],
): Promise<KitLine[]> {
  return kitFor(db, at, await loadTagged(db, tags));
}

/** Ticks off a follow-up visit. @throws UserError conflict when someone did it first */
export async function completeVisit(
  db: Knex,
  acting: Acting,
  p: {
    visitId: number;
    expectedVersion: number;
    note: string;
    /** How flat each string had gone, in cents; strings nobody looked at are left out. */
    readings?: { number: number; flatCents: number }[];
  },
): Promise<{ done: true }> {
  return change(db, acting, 'visit.done', p, async (trx) => {
    const visit = await trx('follow_up as f')
      .leftJoin('person as p', 'p.id', 'f.done_by')
      .where('f.id', p.visitId)
      .select('f.*', 'p.name')
      .first();
    if (!visit) throw notFound('This follow-up');
    await requireSignedOffFor(trx, acting, visit.instrument_id);
    const { tag } = must(await trx('instrument').where({ id: visit.instrument_id }).first());
    await requireNoReferral(trx, acting, { id: visit.instrument_id, tag }, '');
    if (visit.version !== p.expectedVersion || visit.status !== 'open') {
      throw conflict(
        visit.name ? `${visit.name} has already done this follow-up.` : 'This follow-up is no longer open.',
        {
          status: visit.status,
        },
      );
    }
    await trx('follow_up')
      .where({ id: p.visitId })
      .update({
        status: 'done',
        done_by: acting.personId,
        done_at: acting.now,
        note: p.note,
        version: visit.version + 1,
      });
    if (p.readings?.length) {
      const instrument = await loadInstrument(trx, { id: visit.instrument_id });
      for (const { number, flatCents } of p.readings) {
        if (!instrument.positions.some((x) => x.number === number))
          throw refused('no-string', 'No such string', `${instrument.tag} has no string ${number}.`);
        await trx('retune_reading').insert({
          instrument_id: instrument.id,
          follow_up_id: p.visitId,
          number,
          flat_cents: flatCents,
          person_id: acting.personId,
          at: acting.now,
        });
      }
      const programme = await programmeRow(trx);
      await refreshInstrument(trx, instrument.id, { now: acting.now, timeZone: programme.time_zone });
    }
    return { result: { done: true as const }, entity: 'follow_up', entityId: p.visitId };
  });
}
