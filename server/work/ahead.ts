import { group } from 'd3-array';
import type { Knex } from 'knex';
import { addDays, type LocalDate } from '../../core/dates';
import { usualMinutes } from '../../core/procedures/batch';
import type { House } from '../../core/procedures/houseMethod';
import type { Method, Procedure } from '../../core/procedures/types';
import type { VisitKind } from '../../core/settling/readyBy';
import { type Looked, type OnRecord, type WorkItem, workItems } from '../../core/work/items';
import { sayBecause, sayWhat } from '../../core/work/words';
import { composeJob, type JobRequest, lastMethods, lastTime } from '../bench/procedure';
import { among } from '../db/among';
import { referralsOf } from '../faults/referral';
import { type Instrument, loadMany, loadProducts, type StringProduct } from '../fleet/instruments';
import { loadHouses } from '../methods/houseMethods';
import { lessonsOf } from '../plan/classes';
import { dueWorkOf } from './due';

/** A job of the days ahead with its instrument. */
export interface Work extends WorkItem {
  instrument: Instrument;
  /** What it is, such as "full set" or "retune, day 1". */
  what: string;
  /** Why it is due, in words. */
  says: string;
  /** Minutes of its card; where its procedure gives none, what is usual for so many strings. */
  minutes: number;
  method: Pick<Method, 'atATime'>;
}

/** Lessons after the days looked at that may still ask for an instrument within them. */
const LESSON_DAYS = 14;

/** Instruments that are due and looked at together, the longest due first. */
export const MOST_DUE = 2000;

/** Everything to be done in some days, instrument by instrument, what is due first. */
export async function workAhead(db: Knex, looked: Looked): Promise<Work[]> {
  const { first, until } = looked;
  const due = await db('instrument_state')
    .where('due_on', '<=', until)
    .orderBy([{ column: 'due_on' }, { column: 'tag' }])
    .limit(MOST_DUE)
    .select('instrument_id', 'due_by', 'due_on');
  const visits = await db('follow_up')
    .where({ status: 'open' })
    .where('due_on', '<=', until)
    .orderBy([{ column: 'due_on' }, { column: 'id' }]);
  const requests = await db('plan_request').where({ status: 'open' }).where('due_on', '<=', until).orderBy('due_on');
  const all = [...new Set([...due, ...visits, ...requests].map((s) => s.instrument_id as number))];
  // What waits for somebody qualified is nobody's work until its case is closed.
  const referred = await referralsOf(db, all);
  const ids = all.filter((id) => !referred.has(id));
  const instruments = new Map((await loadMany(db, ids)).map((i) => [i.id, i]));
  const products = await loadProducts(
    db,
    [...instruments.values()].flatMap((i) => i.positions.flatMap((x) => [x.houseProductId, x.now.productId])),
  );
  const houses = await loadHouses(db);
  const dues = new Map(due.map((d) => [d.instrument_id, d]));
  const works = await dueWorkOf(db, [...dues.keys()], first);
  const visitsOf = group(visits, (v) => v.instrument_id as number);
  const requestsOf = group(requests, (r) => r.instrument_id as number);
  const concerts = new Map<number, { name: string; on: LocalDate }>();
  for (const c of await db('concert_instrument as x')
    .join('concert as c', 'c.id', 'x.concert_id')
    .whereIn('x.instrument_id', among(db, ids))
    .where('c.on_day', '>', first)
    .orderBy('c.on_day', 'desc')
    .select('x.instrument_id', 'c.name', 'c.on_day'))
    concerts.set(c.instrument_id, { name: c.name, on: c.on_day });
  const lessons = new Map<number, LocalDate[]>();
  const lessonOn = (id: number, on: LocalDate) => {
    const known = lessons.get(id);
    if (known) known.push(on);
    else lessons.set(id, [on]);
  };
  for (const b of await db('instrument_busy')
    .whereIn('instrument_id', among(db, ids))
    .where({ kind: 'lesson' })
    .where('from_on', '>', first)
    .where('from_on', '<=', addDays(until, LESSON_DAYS))
    .orderBy('from_on'))
    lessonOn(b.instrument_id, b.from_on);
  for (const [id, held] of await lessonsOf(db, ids, { from: addDays(first, 1), until: addDays(until, LESSON_DAYS) }))
    for (const b of held) lessonOn(id, b.from);
  for (const days of lessons.values()) days.sort();

  const cards = outlines(products, await lastMethods(db, ids));
  const ahead = ids.flatMap((id): Work[] => {
    const instrument = instruments.get(id);
    const house = instrument && houses.get(instrument.build.family)?.house;
    if (!instrument || !house) return [];
    const outline = cards(instrument, house);
    const at = dues.get(id);
    const work = works.get(id);
    const record: OnRecord = {
      bridge: instrument.build.bridge,
      player: instrument.player,
      cores: instrument.positions.flatMap((x) => products.get(x.houseProductId ?? -1)?.core ?? []),
      due: at && work ? { by: at.due_by, on: at.due_on, work } : null,
      requests: (requestsOf.get(id) ?? []).map((r) => ({ kind: r.kind, on: r.due_on, why: r.why })),
      visits: (visitsOf.get(id) ?? []).map((v) => ({ kind: v.kind as VisitKind, day: v.day, on: v.due_on })),
      concert: concerts.get(id) ?? null,
      lessons: lessons.get(id) ?? [],
    };
    return workItems(record, looked, (request) => outline(request)?.minutes ?? null).map((item) => {
      const card = item.request && item.kind !== 'inspection' ? outline(item.request) : null;
      return {
        ...item,
        instrument,
        what: sayWhat(item, card?.kind ?? null),
        says: sayBecause(item),
        minutes:
          item.minutes ??
          usualMinutes({ positions: instrument.build.positions.length, bridge: instrument.build.bridge }),
        method: card?.method ?? house.method,
      };
    });
  });
  const order = new Map(ids.map((id, n) => [id, n]));
  const rank = (w: Work) => (w.visitDay !== null ? 2 : typeof w.because === 'object' ? 1 : 0);
  return ahead.sort(
    (a, b) =>
      rank(a) - rank(b) ||
      (a.dueOn < b.dueOn ? -1 : a.dueOn > b.dueOn ? 1 : 0) ||
      (order.get(a.instrument.id) as number) - (order.get(b.instrument.id) as number),
  );
}

type Outline = Pick<Procedure, 'kind' | 'method' | 'minutes'>;

const seen = new WeakMap<Instrument, string>();

/** What the composer sees of an instrument, as text: of one that has not changed since, written once. */
function seenBy(instrument: Instrument): string {
  const known = seen.get(instrument);
  if (known !== undefined) return known;
  const strings = instrument.positions.map((x) => [x.houseProductId, x.houseHalf, x.now.productId, x.now.state]);
  const text = JSON.stringify([instrument.build, strings]);
  seen.set(instrument, text);
  return text;
}

/**
 * What a plan needs of procedures: which kind and way of working, and how long. Instruments that are alike in all that
 * the composer sees, as those of a class are, are composed once.
 */
function outlines(
  products: ReadonlyMap<number, StringProduct>,
  lasts: ReadonlyMap<number, Method>,
): (instrument: Instrument, house: House) => (request: JobRequest) => Outline | null {
  // By what is seen of the instrument first: that text is long, and the same for all requests and for all that are alike.
  const known = new Map<string, Map<string, Outline | null>>();
  return (instrument, house) => {
    const last = lastTime(lasts.get(instrument.id));
    const seen = seenBy(instrument);
    const alike = known.get(seen) ?? new Map<string, Outline | null>();
    known.set(seen, alike);
    const before = last ? JSON.stringify(last) : '';
    return (request) => {
      const key = `${before}${JSON.stringify(request)}`;
      const at = alike.get(key);
      if (at !== undefined) return at;
      const { composed } = composeJob({ instrument, house, products, last, request });
      const found = 'procedure' in composed ? composed.procedure : null;
      const own = found ? { kind: found.kind, method: found.method, minutes: found.minutes } : null;
      alike.set(key, own);
      return own;
    };
  };
}
