import type { Knex } from 'knex';
import { addDays, daysBetween, type LocalDate } from '../../core/dates';
import { FAMILY_NAMES, type Family } from '../../core/instruments/build';
import type { PlanJob, PlanProblem } from '../../core/planning/model';
import { usualMinutes } from '../../core/procedures/batch';
import { batchKey } from '../../core/procedures/together';
import { composeJob, lastMethods, lastTime } from '../bench/procedure';
import { type Instrument, instrumentOf, loadProducts } from '../fleet/instruments';
import { loadHouses } from '../methods/house';
import { loadPeople, loadPlaces } from '../programme/programme';
import { stockAhead } from '../stock/ahead';
import { type Shift, shiftsAhead } from './availability';
import { latestPlan } from './plans';

export const PLAN_DAYS = 28;
/** Weights of a programme's plan, in points: a day late of an ordinary job is one. Common practice, no source. */
const WEIGHTS = { setUp: 1, missedRetune: 2, change: 1, unplannedDays: 20, wall: 3 };
const SET_UP_MINUTES = 8;
const RETUNE_MINUTES = 5;
/** How much faster or slower somebody may be taken to be by their records. */
const PACE = { least: 0.75, most: 1.4 };

export interface PlanInput {
  first: LocalDate;
  problem: PlanProblem;
  jobs: { tag: string; name: string; because: string; dueOn: LocalDate; releaseWhy: string; wallWhy: string }[];
  people: { id: number; name: string; initials: string; role: string }[];
  places: { id: number; name: string }[];
  groups: string[];
  skus: string[];
  shifts: Shift[];
  concerts: { name: string; on: LocalDate }[];
  /** Id of the plan that is published; null where none is. */
  planId: number | null;
}

/**
 * Everything a plan for the weeks ahead has to know: what is due, when each instrument can be had, who is where when and
 * may do what, and the packs there and under way.
 */
export async function planInput(db: Knex, at: { today: LocalDate }): Promise<PlanInput> {
  const first = at.today;
  const until = addDays(first, PLAN_DAYS - 1);
  const people = (await loadPeople(db)).filter((p) => p.role !== 'teacher');
  const places = await loadPlaces(db);
  const shifts = await shiftsAhead(db, first, PLAN_DAYS);
  const states = await db('instrument_state')
    .where('due_on', '<=', until)
    .orderBy([{ column: 'due_on' }, { column: 'tag' }])
    .limit(2000);
  const ids = states.map((s) => s.instrument_id as number);
  const rows = await db('instrument').whereIn('id', ids);
  const positions = await db('instrument_position').whereIn('instrument_id', ids);
  const byInstrument = new Map<number, Record<string, unknown>[]>();
  for (const x of positions) {
    const own = byInstrument.get(x.instrument_id);
    if (own) own.push(x);
    else byInstrument.set(x.instrument_id, [x]);
  }
  const instruments = new Map<number, Instrument>(
    rows.map((r) => [r.id, instrumentOf(r, byInstrument.get(r.id) ?? [])]),
  );
  const products = await loadProducts(
    db,
    positions.flatMap((x) => [x.house_product_id, x.now_product_id]),
  );
  const houses = await loadHouses(db);
  const lasts = await lastMethods(db, ids);
  const paces = await paceOf(db, first);
  const busy = await db('instrument_busy').whereIn('instrument_id', ids).where('to_on', '>=', first).orderBy('from_on');
  const published = await latestPlan(db);
  const signOffs = new Map((await db('sign_off')).map((s) => [`${s.person_id}/${s.family}`, s.level as number]));
  const { packs } = await stockAhead(db, { today: first, service: 0.95 });

  const groups: { key: string; family: Family; floating: boolean }[] = [];
  const groupOf = (instrument: Instrument, method: Parameters<typeof batchKey>[1]): number => {
    // Bowed instruments share a set-up by family although each is worked alone.
    const { build } = instrument;
    const key = build.bridge === 'floating' ? `floating/${build.family}` : batchKey(build, method, '');
    const known = groups.findIndex((g) => g.key === key);
    if (known >= 0) return known;
    groups.push({ key, family: build.family, floating: build.bridge === 'floating' });
    return groups.length - 1;
  };
  const skus: { key: string; name: string; initial: number; arrivals: { day: number; packs: number }[] }[] = [];
  const skuOf = (instrument: Instrument): number => {
    const pack = packs.find((x) => x.productId === instrument.houseSetId);
    if (!pack) return -1;
    // A double-length set serves two instruments.
    const half = instrument.positions.every((x) => x.houseHalf);
    const key = `${pack.productId}/${half}`;
    const known = skus.findIndex((s) => s.key === key);
    if (known >= 0) return known;
    const loose = Math.min(
      ...pack.pack.items.map((i) => (pack.pack.looseHalves.get(i.productId) ?? 0) / (half ? 1 : 2) / i.count),
    );
    const times = half ? 2 : 1;
    skus.push({
      key,
      name: pack.name,
      initial: times * pack.pack.packs + (Number.isFinite(loose) ? Math.floor(loose) : 0),
      arrivals: pack.pack.arrivals.map((a) => ({
        // What is overdue is hoped for tomorrow, not today.
        day: Math.max(1, daysBetween(first, a.on)),
        packs: times * a.packs,
      })),
    });
    return skus.length - 1;
  };
  const placeIndex = new Map(places.map((p, i) => [p.id, i]));
  const personIndex = new Map(people.map((p, i) => [p.id, i]));
  const shiftIndex = new Map(shifts.map((s, i) => [`${s.personId}/${s.placeId}/${s.on}`, i]));
  const jobs: PlanJob[] = [];
  const about: PlanInput['jobs'] = [];
  for (const state of states) {
    const instrument = instruments.get(state.instrument_id);
    const house = instrument && houses.get(instrument.build.family)?.house;
    if (!instrument || !house) continue;
    const due: { by: string } = JSON.parse(state.due);
    const numbers =
      state.due_by === 'broken'
        ? instrument.positions.filter((x) => x.now.state === 'missing').map((x) => x.number)
        : undefined;
    const { composed } = composeJob({
      instrument,
      house,
      products,
      last: lastTime(lasts.get(instrument.id)),
      ...(numbers?.length ? { request: { numbers } } : {}),
    });
    const procedure = 'procedure' in composed ? composed.procedure : null;
    const minutes = procedure?.minutes ?? usualMinutes(instrument.build);
    const own = busy.filter((b) => b.instrument_id === instrument.id);
    // The first day on which it is not away.
    let release = 0;
    let releaseWhy = '';
    for (const b of own) {
      if (b.from_on > addDays(first, release)) continue;
      release = Math.max(release, daysBetween(first, b.to_on) + 1);
      releaseWhy = b.why;
    }
    const wall = state.due_by === 'concert' || due.by === 'concert';
    const item = published?.items.find((i) => i.instrumentId === instrument.id);
    const at = item ? shiftIndex.get(`${item.personId}/${item.placeId}/${item.on}`) : undefined;
    const day = daysBetween(first, state.due_on);
    jobs.push({
      id: instrument.id,
      site: placeIndex.get(instrument.placeId) ?? 0,
      group: groupOf(instrument, procedure?.method ?? house.method),
      sku: skuOf(instrument),
      minutes: people.map((p) => Math.max(1, Math.round(minutes * (paces.get(p.id) ?? 1)))),
      release: Math.min(release, PLAN_DAYS - 1),
      due: day,
      latest: wall ? Math.max(day, 0) : null,
      weight: state.broken ? 3 : wall || day < 0 ? 2 : 1,
      published: item ? (at ?? -1) : null,
      locked: Boolean(item?.locked && at !== undefined),
    });
    about.push({
      tag: instrument.tag,
      name: `${FAMILY_NAMES[instrument.build.family]}${instrument.build.size === '4/4' ? '' : ` ${instrument.build.size}`}`,
      because: state.due_by,
      dueOn: state.due_on,
      releaseWhy,
      wallWhy: wall ? 'it has to settle before the concert' : '',
    });
  }
  const problem: PlanProblem = {
    days: PLAN_DAYS,
    sites: places.length,
    people: people.map((p) => ({
      helper: p.role === 'helper',
      supervisor: p.role === 'technician' || p.role === 'coordinator',
      skill: groups.map((g) => signOffs.get(`${p.id}/${g.family}`) ?? (p.role === 'helper' ? (g.floating ? 0 : 1) : 3)),
    })),
    shifts: shifts.map((s, id) => ({
      id,
      person: personIndex.get(s.personId) ?? 0,
      day: daysBetween(first, s.on),
      site: placeIndex.get(s.placeId) ?? 0,
      minutes: s.minutes,
    })),
    jobs,
    skillNeeded: groups.map((g) => (g.floating ? 2 : 1)),
    stock: skus.map(({ initial, arrivals }) => ({ initial, arrivals })),
    setUpMinutes: SET_UP_MINUTES,
    retuneMinutes: RETUNE_MINUTES,
    retuneLags: [1, 3],
    weights: { ...WEIGHTS },
  };
  const concerts = await db('concert').whereBetween('on_day', [first, until]).orderBy('on_day');
  return {
    first,
    problem,
    jobs: about,
    people: people.map(({ id, name, initials, role }) => ({ id, name, initials, role })),
    places: places.map(({ id, name }) => ({ id, name })),
    groups: groups.map((g) => FAMILY_NAMES[g.family].toLowerCase()),
    skus: skus.map((s) => s.name),
    shifts,
    concerts: concerts.map((c) => ({ name: c.name, on: c.on_day })),
    planId: published?.id ?? null,
  };
}

/** How long each person takes against all of them, by records of the last year; few records say little. */
async function paceOf(db: Knex, today: LocalDate): Promise<Map<number, number>> {
  const from = addDays(today, -365);
  const rows: { person_id: number; family: string; n: number; mean: number }[] = await db('change_record as r')
    .join('instrument as i', 'i.id', 'r.instrument_id')
    .where({ 'r.kind': 'change' })
    .where('r.on_day', '>=', from)
    .whereNotNull('r.minutes')
    .groupBy('r.person_id', 'i.family')
    .select('r.person_id', 'i.family')
    .count({ n: '*' })
    .avg({ mean: 'r.minutes' });
  const family = new Map<string, { n: number; sum: number }>();
  for (const r of rows) {
    const known = family.get(r.family) ?? { n: 0, sum: 0 };
    family.set(r.family, { n: known.n + Number(r.n), sum: known.sum + Number(r.n) * Number(r.mean) });
  }
  const sums = new Map<number, { n: number; ratio: number }>();
  for (const r of rows) {
    const all = family.get(r.family);
    if (!all || all.sum === 0) continue;
    const known = sums.get(r.person_id) ?? { n: 0, ratio: 0 };
    const ratio = Number(r.mean) / (all.sum / all.n);
    sums.set(r.person_id, { n: known.n + Number(r.n), ratio: known.ratio + Number(r.n) * ratio });
  }
  // Ten records of an average person stand in for what is not known yet.
  return new Map(
    [...sums].map(([id, s]) => [id, Math.min(PACE.most, Math.max(PACE.least, (s.ratio + 10) / (s.n + 10)))]),
  );
}
