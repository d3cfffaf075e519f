import { group as grouped } from 'd3-array';
import type { Knex } from 'knex';
import type { Aside } from '../../contract/plan';
import { addDays, daysBetween, type LocalDate, sayDay } from '../../core/dates';
import { FAMILY_NAMES, type Family } from '../../core/instruments/build';
import { benchShares } from '../../core/planning/bench';
import type { Placed } from '../../core/planning/changes';
import type { PlanKind } from '../../core/planning/kinds';
import { LEVEL } from '../../core/planning/ladder';
import type { PlanJob, PlanProblem } from '../../core/planning/model';
import { closedShifts, nobodyBeside, type Taken } from '../../core/planning/reach';
import { DAY_MINUTES, leftOf, minuteOf, type Shift, shiftOf } from '../../core/planning/shifts';
import { batchKey } from '../../core/procedures/together';
import { RETUNE_DAYS, VISIT_GRACE_DAYS, VISIT_MINUTES } from '../../core/settling/readyBy';
import { among } from '../db/among';
import { referralsOf } from '../faults/referral';
import { loadPeople, loadPlaces, type Person } from '../programme/programme';
import { stockAhead } from '../stock/ahead';
import { setContents } from '../stock/shelf';
import { approvedSubstitutes } from '../stock/substitutes';
import { MOST_DUE, type Work, workAhead } from '../work/ahead';
import { type Busy, busyAhead } from './busy';
import { effortsOf } from './efforts';
import { type Holiday, holidaysAhead } from './holidays';
import { latestPlan, type PlanItem } from './plans';
import { shiftsAhead } from './shifts';
import { loadSignOffs } from './signOffs';
import { loadWeights, type ProgrammeWeights } from './weights';

export const PLAN_DAYS = 28;
const SET_UP_MINUTES = 8;
/** Why an instrument that takes two is in no session of somebody alone. */
const TAKES_TWO = 'it takes two people, and nobody else is there';
/**
 * Share of a learner's minutes that whoever stands by gives: they look at each string before it comes up, and go on with
 * their own work between. Common practice, no source.
 */
export const SUPERVISION_SHARE = 0.25;
/** Fairness looks back over so many weeks of the term. */
const TERM_WEEKS = 8;

export interface PlannedJob {
  /** `instrument/kind`, which stays the same from plan to plan. */
  key: string;
  instrumentId: number;
  kind: PlanKind;
  tag: string;
  name: string;
  /** What is done, such as "full set". */
  what: string;
  because: string;
  dueOn: LocalDate;
  releaseWhy: string;
  wallWhy: string;
  /** Why it cannot be had on days between. */
  awayWhy: string;
  /** Why it cannot be had in some sessions, or would not be ready for the lesson after them. */
  closed: { why: string; shifts: number[] }[];
  /** It stood in the published plan on a day that has passed. */
  cameBack: { on: LocalDate; person: string; aside: Aside['why'] } | null;
  /** It stands in the published plan with somebody who is not there then any more. */
  lost: { on: LocalDate; person: string } | null;
  /** Minutes it takes in eight cases of ten, of the person who is quickest with it. */
  range: { low: number; high: number };
  learnerId: number | null;
}

export interface PlanInput {
  first: LocalDate;
  problem: PlanProblem;
  jobs: PlannedJob[];
  people: { id: number; name: string; initials: string; role: string }[];
  places: { id: number; name: string }[];
  groups: string[];
  skus: string[];
  shifts: Shift[];
  concerts: {
    name: string;
    on: LocalDate;
    settlingDays: number;
    /** Who plays, and which of them wait for somebody qualified: ids of instruments. */
    instruments: number[];
    referred: number[];
  }[];
  holidays: Holiday[];
  weights: ProgrammeWeights & { version: number };
  /** Spread of a job's minutes: standard deviation of their logarithm. */
  spread: number;
  /** Instruments that are due in these weeks beyond those a plan takes in at once. */
  beyond: number;
  /** Id of the plan that is published; null where none is. */
  planId: number | null;
  /** Where it puts what is still to do, from the first day on. */
  standing: Placed[];
}

/**
 * Everything a plan for the weeks ahead has to know: what is due, when each instrument can be had, who is where when and
 * may do what, how long it takes them, and the packs there and under way.
 */
export async function planInput(db: Knex, at: { today: LocalDate; now: number }): Promise<PlanInput> {
  const first = at.today;
  const until = addDays(first, PLAN_DAYS - 1);
  const people = (await loadPeople(db)).filter((p) => p.role !== 'teacher');
  const places = await loadPlaces(db);
  const weights = await loadWeights(db);
  // Hours of somebody who is not planned for, such as a teacher, are nobody else's.
  const known = new Set(people.map((p) => p.id));
  const all = (await shiftsAhead(db, first, PLAN_DAYS)).filter((s) => known.has(s.personId));
  const shifts = all.flatMap((s) => leftOf(s, at.now) ?? []);
  const work = await workAhead(db, { first, until });
  const efforts = await effortsOf(db, first);
  const published = await latestPlan(db);
  const signOffs = await loadSignOffs(db);
  const busy = await busyAhead(
    db,
    work.map((w) => w.instrument.id),
    { from: first, until },
  );
  const packs = await packRows(db, first);

  const groups: Group[] = [];
  const needed: number[] = [];
  const groupIndex = new Map<string, number>();
  const indexOf = (group: Group): number => {
    const known = groupIndex.get(group.key);
    if (known !== undefined) return known;
    groupIndex.set(group.key, groups.length);
    needed.push(group.needed);
    return groups.push(group) - 1;
  };
  const placeIndex = new Map(places.map((p, i) => [p.id, i]));
  const personIndex = new Map(people.map((p, i) => [p.id, i]));
  const shiftIndex = new Map(shifts.map((s, i) => [s.id, i]));
  const items = new Map(published?.items.map((i) => [`${i.instrumentId}/${i.kind}`, i]));
  const nameOf = new Map(people.map((p) => [p.id, p.name]));

  const shiftsAt = grouped(
    shifts.map((s, shift) => ({
      shift,
      placeId: s.placeId,
      person: personIndex.get(s.personId) ?? 0,
      at: DAY_MINUTES * daysBetween(first, s.on) + minuteOf(s.starts),
      minutes: s.minutes,
    })),
    (s) => s.placeId,
  );
  const jobs: PlanJob[] = [];
  const about: PlannedJob[] = [];
  for (const w of work) {
    const key = `${w.instrument.id}/${w.kind}`;
    const ranges = people.map((p) => efforts.of(p.id, w.instrument.build.family, w.minutes));
    const group = indexOf(groupOf(w));
    const minutes = ranges.map((r) => Math.max(1, Math.round(isLearned(w) ? r.minutes : w.minutes)));
    const own = busy.get(w.instrument.id) ?? [];
    const { release, releaseWhy, away, awayWhy } = openDays(own, first);
    const dueDay = daysBetween(first, w.dueOn);
    const item = items.get(key);
    const shift = item && shiftOf(all, item);
    const at = item?.aside ? undefined : shift && shiftIndex.get(shift.id);
    const passed =
      item !== undefined && (item.on < first || item.aside !== '' || (shift !== undefined && at === undefined));
    // What is broken cannot be played as it is: nothing is made worse by new strings.
    const unready = isLearned(w) && w.because !== 'broken' ? { due: dueDay * DAY_MINUTES } : null;
    const taken = takenOf(own, first);
    const wholeDays = new Set([...Array(release).keys(), ...away]);
    const setUp = groups[group]?.setUp ? SET_UP_MINUTES : 0;
    const there = shiftsAt.get(w.instrument.placeId) ?? [];
    const alone = w.instrument.takesTwo && isLearned(w) ? nobodyBeside(there) : new Set<number>();
    const closed = [
      ...[...alone].map((shift) => ({ shift, why: TAKES_TWO })),
      ...closedShifts(
        taken,
        // On days that are taken whole it cannot be had anyway.
        (taken.length === 0 ? [] : there)
          .filter((s) => !alone.has(s.shift) && !wholeDays.has(daysBetween(first, (shifts[s.shift] as Shift).on)))
          .map((s) => ({ ...s, needs: (minutes[s.person] as number) + setUp })),
        unready,
      ),
    ].sort((a, b) => a.shift - b.shift);
    const [sku = -1, ...pools] = w.usesPack ? packs.rowsOf(w) : [];
    const best = ranges.reduce((a, b) => (b.minutes < a.minutes ? b : a), ranges[0] as (typeof ranges)[number]);
    jobs.push({
      id: w.instrument.id,
      site: placeIndex.get(w.instrument.placeId) ?? 0,
      group,
      sku,
      ...(pools.length > 0 ? { pools } : {}),
      minutes,
      // A visit is of use on its day, not before; what is away to the end of these weeks cannot be done in them.
      release: Math.max(release, isLearned(w) ? 0 : Math.min(Math.max(0, dueDay), PLAN_DAYS - 1)),
      due: dueDay,
      latest: w.wall ? Math.max(0, daysBetween(first, w.wall.on)) : null,
      ...(away.length > 0 ? { away } : {}),
      ...(closed.length > 0 ? { closed: closed.map((c) => c.shift) } : {}),
      visits: w.visits,
      weight: w.weight,
      published: item ? (at ?? -1) : null,
      locked: Boolean(item?.locked && at !== undefined),
    });
    about.push({
      key,
      instrumentId: w.instrument.id,
      kind: w.kind,
      tag: w.instrument.tag,
      name: `${groups[group]?.family ? groups[group]?.name : 'instrument'}${w.instrument.build.size === '4/4' ? '' : ` ${w.instrument.build.size}`}, ${w.what}`,
      what: w.what,
      because: w.says,
      dueOn: w.dueOn,
      releaseWhy,
      wallWhy: w.wall?.why ?? '',
      awayWhy,
      closed: [...grouped(closed, (c) => c.why)].map(([why, of]) => ({ why, shifts: of.map((c) => c.shift) })),
      cameBack: item && passed ? { ...stoodWith(item, nameOf), aside: item.aside } : null,
      lost: item && !passed && at === undefined ? stoodWith(item, nameOf) : null,
      range: isLearned(w) ? { low: best.low, high: best.high } : { low: w.minutes, high: w.minutes },
      learnerId: item?.learnerId ?? null,
    });
  }
  const doing = new Set(about.map((j) => j.key));
  const loads = await loadsOf(db, people, first);
  const due = await db('instrument_state').where('due_on', '<=', until).count({ n: '*' }).first();
  const shares = benchShares(
    shifts.map((s) => ({ place: s.placeId, from: s.startsAt / 60_000, until: s.endsAt / 60_000 })),
    (place) => places[placeIndex.get(place) ?? -1]?.benchSpace ?? undefined,
  );
  const problem: PlanProblem = {
    days: PLAN_DAYS,
    sites: places.length,
    people: people.map((p, k) => ({
      helper: p.role === 'helper',
      supervisor: p.role === 'technician' || p.role === 'coordinator',
      skill: groups.map((g) => (g.family ? signOffs(p, g.family) : LEVEL.alone)),
      teaches: groups.map((g) => p.role !== 'helper' && (!g.family || signOffs(p, g.family) >= LEVEL.supervises)),
      workedMinutes: loads[k]?.worked ?? 0,
      hadMinutes: loads[k]?.had ?? 0,
    })),
    shifts: shifts.map((s, id) => {
      const { minutes, space } = shares[id] as (typeof shares)[number];
      return {
        id,
        person: personIndex.get(s.personId) ?? 0,
        day: daysBetween(first, s.on),
        site: placeIndex.get(s.placeId) ?? 0,
        minutes,
        startsMinute: minuteOf(s.starts),
        travelMinutes: s.travelMinutes,
        ...(space === undefined ? {} : { benchSpace: space }),
      };
    }),
    jobs,
    skillNeeded: needed,
    underSupervision: true,
    supervisionShare: SUPERVISION_SHARE,
    stock: packs.stock,
    setUpMinutes: SET_UP_MINUTES,
    setUpByGroup: groups.map((g) => (g.setUp ? SET_UP_MINUTES : 0)),
    retuneMinutes: VISIT_MINUTES.retune,
    retuneLags: RETUNE_DAYS,
    retuneGrace: VISIT_GRACE_DAYS,
    weights: weights.weights,
  };
  const concerts = await db('concert').whereBetween('on_day', [first, until]).orderBy('on_day');
  const players = await db('concert_instrument as x')
    .join('instrument as i', 'i.id', 'x.instrument_id')
    .whereIn(
      'x.concert_id',
      among(
        db,
        concerts.map((c) => c.id),
      ),
    )
    .whereNull('i.retired_on')
    .select('x.concert_id', 'x.instrument_id');
  const referrals = await referralsOf(db, [...new Set(players.map((x) => x.instrument_id))]);
  return {
    first,
    problem,
    jobs: about,
    people: people.map(({ id, name, initials, role }) => ({ id, name, initials, role })),
    places: places.map(({ id, name }) => ({ id, name })),
    groups: groups.map((g) => g.name),
    skus: packs.names,
    shifts,
    concerts: concerts.map((c) => ({
      name: c.name,
      on: c.on_day,
      instruments: players.flatMap((x) => (x.concert_id === c.id ? [x.instrument_id] : [])),
      referred: players.flatMap((x) =>
        x.concert_id === c.id && referrals.has(x.instrument_id) ? [x.instrument_id] : [],
      ),
      // The longest that any instrument asks for: the days drawn in front of the wall.
      settlingDays: Math.max(
        1,
        ...work
          .flatMap((w) => (w.wall && w.wall.on < c.on_day ? [daysBetween(w.wall.on, c.on_day)] : []))
          .filter((d) => d <= 4),
      ),
    })),
    holidays: await holidaysAhead(db, first, until),
    weights: { ...weights.weights, version: weights.version },
    spread: efforts.spread,
    beyond: Math.max(0, Number(due?.n ?? 0) - MOST_DUE),
    planId: published?.id ?? null,
    standing: (published?.items ?? []).filter(
      (i) => i.on >= first && i.aside === '' && doing.has(`${i.instrumentId}/${i.kind}`),
    ),
  };
}

/** Jobs of one group share a set-up, and ask for one level of whoever does them alone. */
interface Group {
  key: string;
  name: string;
  family: Family | null;
  setUp: boolean;
  needed: number;
}

function groupOf(w: Work): Group {
  const { build } = w.instrument;
  const { family } = build;
  const name = FAMILY_NAMES[family].toLowerCase();
  if (w.kind === 'retune')
    return { key: 'retune', name: 'retunes', family: null, setUp: false, needed: LEVEL.supervised };
  if (!isLearned(w)) return { key: `${w.kind}/${family}`, name, family, setUp: false, needed: LEVEL.alone };
  // Instruments with a floating bridge share a set-up by family although each is worked alone.
  const key = build.bridge === 'floating' ? `floating/${family}` : batchKey(build, w.method, '');
  return { key, name, family, setUp: true, needed: LEVEL.alone };
}

/** Strings take as long as was learned; looks and visits as long as they are given. */
const isLearned = (w: Work): boolean => w.kind === 'change' || w.kind === 'service' || w.kind === 'refit';

const stoodWith = (item: PlanItem, names: ReadonlyMap<number, string>) => ({
  on: item.on,
  person: names.get(item.personId) ?? '',
});

/** What takes an instrument for hours of a day, and lessons that take all of it, in minutes from the first day. */
function takenOf(busy: readonly Busy[], first: LocalDate): Taken[] {
  const at = (day: LocalDate, time: string | null) =>
    DAY_MINUTES * daysBetween(first, day) + (time === null ? 0 : minuteOf(time));
  return busy.flatMap((b) => {
    const wholeDays = b.fromTime === null || b.toTime === null;
    const lesson = b.kind === 'lesson';
    if (wholeDays && !lesson) return [];
    const until = wholeDays ? at(b.to, null) + DAY_MINUTES : at(b.to, b.toTime);
    return [{ from: at(b.from, wholeDays ? null : b.fromTime), until, lesson, why: b.why }];
  });
}

/** From when an instrument can be had, and the days between that are taken whole. */
function openDays(
  busy: readonly Busy[],
  first: LocalDate,
): { release: number; releaseWhy: string; away: number[]; awayWhy: string } {
  const taken = new Map<number, string>();
  for (const b of busy) {
    if (b.fromTime !== null && b.toTime !== null) continue;
    // An entry may be without end: never more days than are looked at.
    const last = Math.min(PLAN_DAYS - 1, daysBetween(first, b.to));
    for (let day = Math.max(0, daysBetween(first, b.from)); day <= last; day++) taken.set(day, b.why);
  }
  let release = 0;
  let releaseWhy = '';
  while (taken.has(release)) {
    releaseWhy = taken.get(release) ?? '';
    release += 1;
  }
  const away = [...taken.keys()].filter((d) => d > release).sort((a, b) => a - b);
  const whys = [...new Set(away.map((d) => taken.get(d)))];
  const shown = away.slice(0, 4).map((d) => sayDay(addDays(first, d), first));
  return {
    release,
    releaseWhy,
    away,
    awayWhy: away.length > 0 ? `${whys.join(', ')}: ${shown.join(', ')}${away.length > 4 ? ' and more' : ''}` : '',
  };
}

interface PackRows {
  stock: { initial: number; arrivals: { day: number; packs: number }[] }[];
  names: string[];
  rowsOf: (w: Work) => number[];
}

/**
 * Packs there and under way as rows that jobs count against. Half strings count: a double-length set serves two. Where
 * every string of one set may be replaced from another, both together are a row of their own: the one may then be short
 * as long as the other is not.
 */
async function packRows(db: Knex, first: LocalDate): Promise<PackRows> {
  const { packs } = await stockAhead(db, { today: first, service: 0.95 });
  const contents = await setContents(db);
  const approved = await approvedSubstitutes(db);
  const sets = new Map(packs.map((p) => [p.productId, p]));
  const itemsOf = (id: number) => (contents.get(String(id)) ?? []).map((i) => Number(i.productId));
  /** Sets that may stand in for a set. */
  const standIns = (id: number): number[] => {
    const own = itemsOf(id);
    if (own.length === 0 || !own.some((x) => approved.has(x))) return [];
    return [...sets.keys()].filter((other) => {
      if (other === id) return false;
      const theirs = new Set(itemsOf(other));
      return own.every((x) => theirs.has(x) || approved.get(x)?.some((y) => theirs.has(y)));
    });
  };
  const stock: PackRows['stock'] = [];
  const names: string[] = [];
  const known = new Map<string, number>();
  const row = (ids: readonly number[], half: boolean): number => {
    const key = `${ids.join('+')}/${half}`;
    const at = known.get(key);
    if (at !== undefined) return at;
    const times = half ? 2 : 1;
    const parts = ids.flatMap((id) => sets.get(id) ?? []);
    const looseOf = (pack: (typeof packs)[number]['pack']) => {
      const loose = Math.min(
        ...pack.items.map((i) => (pack.looseHalves.get(i.productId) ?? 0) / (half ? 1 : 2) / i.count),
      );
      return Number.isFinite(loose) ? Math.floor(loose) : 0;
    };
    known.set(key, stock.length);
    names.push(parts.map((p) => p.name).join(' or '));
    stock.push({
      initial: parts.reduce((sum, p) => sum + times * p.pack.packs + looseOf(p.pack), 0),
      arrivals: parts.flatMap((p) =>
        // What is overdue is hoped for tomorrow, not today.
        p.pack.arrivals.map((a) => ({ day: Math.max(1, daysBetween(first, a.on)), packs: times * a.packs })),
      ),
    });
    return stock.length - 1;
  };
  const standInsOf = new Map<number, number[]>();
  const ins = (id: number) => {
    const at = standInsOf.get(id) ?? standIns(id);
    standInsOf.set(id, at);
    return at;
  };
  return {
    stock,
    names,
    rowsOf: (w) => {
      const id = w.instrument.houseSetId;
      if (id === null || !sets.has(id)) return [];
      // A double-length set serves two instruments.
      const half = w.instrument.positions.every((x) => x.houseHalf);
      const others = ins(id);
      // What others may take is counted with them; what may take others only with them.
      const takers = [...sets.keys()].filter((t) => t !== id && ins(t).includes(id));
      const together = takers.map((t) => row([t, ...ins(t)], half));
      return others.length > 0 ? [row([id, ...others], half), ...together] : [row([id], half), ...together];
    },
  };
}

/** Minutes each person worked and had in the weeks of the term until now. */
async function loadsOf(
  db: Knex,
  people: readonly Person[],
  today: LocalDate,
): Promise<{ worked: number; had: number }[]> {
  const from = addDays(today, -7 * TERM_WEEKS);
  const worked: { person_id: number; minutes: number }[] = await db('standing_record')
    .where('on_day', '>=', from)
    .where('on_day', '<', today)
    .groupBy('person_id')
    .select('person_id')
    .sum({ minutes: 'minutes' });
  const past = await shiftsAhead(db, from, 7 * TERM_WEEKS);
  return people.map((p) => ({
    worked: Number(worked.find((w) => w.person_id === p.id)?.minutes ?? 0),
    had: past.reduce((sum, s) => (s.personId === p.id ? sum + s.minutes : sum), 0),
  }));
}
