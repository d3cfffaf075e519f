import type { Highs } from 'highs';
import { LinearProgram } from '../solver/linear';
import {
  availableByDay,
  candidateShifts,
  countingShifts,
  type Plan,
  type PlanProblem,
  setUpOf,
  setUpsFor,
  skusOf,
  standingMinutes,
  standsBy,
  travelCost,
  unplannedCost,
  usedMinutes,
  visitDaysOf,
} from './model';

/** A row of the stock: packs used up to a day are at most those there by then. Only days before something comes bind. */
interface StockRow {
  sku: number;
  day: number;
  packs: number;
}

function stockRows(p: PlanProblem): StockRow[] {
  return p.stock.flatMap((_, sku) => {
    const packs = availableByDay(p, sku);
    return packs.flatMap((n, day) => (day + 1 === p.days || packs[day + 1] !== n ? [{ sku, day, packs: n }] : []));
  });
}

interface Program {
  lp: LinearProgram;
  constant: number;
  /** Which column puts which job into which shift, with the column of its set-up. */
  choices: { job: number; shift: number; column: number }[];
  /** Set-ups with the columns of their jobs, the room that is there already, and how many lie on the bench together. */
  setUps: { column: number; jobs: [number, number][]; room: number; space: number }[];
  /** Columns of going to a shift, where that costs. */
  trips: ReadonlyMap<number, number>;
  /** Visits of a place and day against the room for them, with the column of those missed. */
  visitRows: { terms: [number, number][]; room: number; missed: number }[];
}

/** What stays where it is beside the jobs of a program: set-ups and ways that are made already, visits wanted. */
export interface Beside {
  /** Jobs there by `shift/group`. */
  setUps: ReadonlyMap<string, number>;
  visited: ReadonlySet<number>;
  /** By `site × days + day`. */
  wanted: ReadonlyMap<number, number>;
}

/**
 * The jobs of some sites as an integer program: which shift each is in, which groups are set up where, how many visits
 * nobody has time for. Room for visits is counted without rounding down and fairness, which is never below nothing, not
 * at all, so its optimum is below every plan.
 *
 * @param standing who stands by, of the whole rota
 * @param beside what other jobs, which are not part of it, bring along
 */
function programOf(
  p: PlanProblem,
  sites: ReadonlySet<number>,
  candidates: readonly (readonly number[])[],
  counts: readonly boolean[],
  rows: readonly StockRow[],
  standing: Int32Array,
  beside?: Beside,
): Program {
  const lp = new LinearProgram();
  const inf = Number.POSITIVE_INFINITY;
  let constant = 0;
  const choices: Program['choices'] = [];
  const jobTerms: [number, number][][] = [];
  const minutes = new Map<number, [number, number][]>();
  const stock = new Map<number, [number, number][]>();
  const visits = new Map<number, [number, number][]>();
  const setUps = new Map<
    string,
    { column: number; jobs: [number, number][]; shift: number; minutes: number; room: number; space: number }
  >();
  const push = <K>(map: Map<K, [number, number][]>, key: K, term: [number, number]) => {
    const list = map.get(key);
    if (list) list.push(term);
    else map.set(key, [term]);
  };
  const rowsOf = new Map<number, number[]>();
  const visitDays = visitDaysOf(p, counts);
  const trips = new Map<number, number>();
  for (const [i, r] of rows.entries()) rowsOf.set(r.sku, [...(rowsOf.get(r.sku) ?? []), i]);
  p.jobs.forEach((job, i) => {
    if (!sites.has(job.site)) return;
    const moved = (s: number) => (job.published == null || job.published === s ? 0 : p.weights.change);
    const left = unplannedCost(p, job) + moved(-1);
    constant += left;
    const terms: [number, number][] = [];
    const list = job.locked && job.published != null ? [job.published].filter((s) => s >= 0) : (candidates[i] ?? []);
    for (const s of list) {
      const shift = p.shifts[s];
      if (!shift) continue;
      const bound = skusOf(job).flatMap((sku) =>
        (rowsOf.get(sku) ?? []).filter((r) => (rows[r] as StockRow).day >= shift.day),
      );
      const cost = job.weight * Math.max(0, shift.day - job.due) + moved(s) - left;
      const column = lp.column(cost, 0, 1, true);
      terms.push([column, 1]);
      push(minutes, s, [column, job.minutes[shift.person] ?? 0]);
      const by = standing[s * p.skillNeeded.length + job.group] as number;
      if (by >= 0) push(minutes, by, [column, standingMinutes(p, job.minutes[shift.person] ?? 0)]);
      const key = `${s}/${job.group}`;
      const there = beside?.setUps.get(key) ?? 0;
      const space = shift.benchSpace ?? p.jobs.length + there;
      // Room that is left where it is set up already; whoever finds none sets up, once for each benchful.
      const room = setUpsFor(there, shift.benchSpace) * space - there;
      const known = setUps.get(key) ?? {
        column: lp.column(setUpOf(p, job.group).points, 0, Math.max(1, Math.ceil(p.jobs.length / space)), true),
        jobs: [],
        shift: s,
        minutes: setUpOf(p, job.group).minutes,
        room,
        space,
      };
      known.jobs.push([column, 1]);
      choices.push({ job: i, shift: s, column });
      setUps.set(key, known);
      for (const day of visitDays(job.site, shift.day, job.visits ?? p.retuneLags))
        push(visits, job.site * p.days + day, [column, 1]);
      for (const r of bound) push(stock, r, [column, 1]);
    }
    jobTerms.push(terms);
  });
  for (const terms of jobTerms) if (terms.length > 0) lp.row(-inf, 1, terms);
  for (const { column, jobs, shift, minutes: setUpMinutes, room, space } of setUps.values()) {
    push(minutes, shift, [column, setUpMinutes]);
    // Whoever sets up somewhere has gone there.
    const travel = travelCost(p, p.shifts[shift] as PlanProblem['shifts'][number]);
    if (travel > 0 && !beside?.visited.has(shift)) {
      const trip = trips.get(shift) ?? lp.column(travel, 0, 1, true);
      trips.set(shift, trip);
      lp.row(-inf, 0, [
        [column, 1],
        [trip, -Math.max(1, Math.ceil(p.jobs.length / space))],
      ]);
    }
    if (room >= jobs.length) continue;
    if (room === 0)
      for (const [x] of jobs)
        lp.row(-inf, 0, [
          [x, 1],
          [column, -1],
        ]);
    if (room > 0 || space < jobs.length) lp.row(-inf, room, [...jobs, [column, -Math.min(space, jobs.length)]]);
  }
  for (const [s, terms] of minutes) lp.row(-inf, p.shifts[s]?.minutes ?? 0, terms);
  for (const [r, terms] of stock) lp.row(-inf, (rows[r] as StockRow).packs, terms);
  // Where others want visits, the minutes taken here count against their room too.
  const cells = new Set(visits.keys());
  for (const s of minutes.keys()) {
    const shift = p.shifts[s];
    if (shift && beside?.wanted.has(shift.site * p.days + shift.day)) cells.add(shift.site * p.days + shift.day);
  }
  const visitRows: Program['visitRows'] = [];
  for (const cell of cells) {
    const [site, day] = [Math.floor(cell / p.days), cell % p.days];
    let room = -(beside?.wanted.get(cell) ?? 0);
    const terms: [number, number][] = [...(visits.get(cell) ?? [])];
    p.shifts.forEach((s, i) => {
      if (s.site !== site || s.day !== day || !counts[i]) return;
      room += s.minutes / p.retuneMinutes;
      for (const [column, m] of minutes.get(i) ?? []) terms.push([column, m / p.retuneMinutes]);
    });
    const missed = lp.column(p.weights.missedRetune, 0, inf, false);
    lp.row(-inf, room, [...terms, [missed, -1]]);
    visitRows.push({ terms, room, missed });
  }
  return { lp, constant, choices, setUps: [...setUps.values()], trips, visitRows };
}

/** A plan as a point of its program. */
function pointOf(program: Program, plan: Plan): number[] {
  const x = new Array<number>(program.lp.columns).fill(0);
  for (const { job, shift, column } of program.choices)
    if (plan[job] === shift) {
      x[column] = 1;
      const trip = program.trips.get(shift);
      if (trip !== undefined) x[trip] = 1;
    }
  for (const { column, jobs, room, space } of program.setUps) {
    const there = jobs.reduce((sum, [job]) => sum + (x[job] as number), 0);
    x[column] = Math.max(0, Math.ceil((there - room) / space));
  }
  for (const { terms, room, missed } of program.visitRows)
    x[missed] = Math.max(0, terms.reduce((sum, [column, value]) => sum + value * (x[column] as number), 0) - room);
  return x;
}

/**
 * The best way to plan some jobs while all others stay where they are: one integer program over them.
 *
 * @param which places of the jobs that may move
 * @returns the plan with them, or null where nothing was found in time
 */
export function replanSome(
  highs: Highs,
  p: PlanProblem,
  plan: Plan,
  which: readonly number[],
  options: { seconds: number; candidates: readonly (readonly number[])[]; counts: readonly boolean[] },
): Plan | null {
  const open = new Set(which);
  const { counts } = options;
  const standing = standsBy(p);
  const used = p.stock.map(() => new Array<number>(p.days).fill(0));
  const setUps = new Map<string, number>();
  const visited = new Set<number>();
  const wanted = new Map<number, number>();
  const visitDays = visitDaysOf(p, counts);
  p.jobs.forEach((job, i) => {
    const at = plan[i] as number;
    const shift = p.shifts[at];
    if (open.has(i) || !shift) return;
    setUps.set(`${at}/${job.group}`, (setUps.get(`${at}/${job.group}`) ?? 0) + 1);
    visited.add(at);
    for (const day of visitDays(job.site, shift.day, job.visits ?? p.retuneLags)) {
      const cell = job.site * p.days + day;
      wanted.set(cell, (wanted.get(cell) ?? 0) + 1);
    }
    for (const sku of skusOf(job))
      for (let d = shift.day; d < p.days; d++) (used[sku] as number[])[d] = ((used[sku] as number[])[d] as number) + 1;
  });
  const taken = usedMinutes(
    p,
    plan.map((s, i) => (open.has(i) ? -1 : s)),
  );
  const shifts = p.shifts.map((s, i) => ({ ...s, minutes: s.minutes - (taken[i] as number) }));
  const stock = p.stock.map((_, sku) => {
    // What is left to the end of all days from each on.
    const left = availableByDay(p, sku).map((n, d) => n - ((used[sku] as number[])[d] as number));
    for (let d = p.days - 2; d >= 0; d--) left[d] = Math.min(left[d] as number, left[d + 1] as number);
    return {
      initial: left[0] as number,
      arrivals: left.flatMap((n, day) =>
        day > 0 && n > (left[day - 1] as number) ? [{ day, packs: n - (left[day - 1] as number) }] : [],
      ),
    };
  });
  const part: PlanProblem = { ...p, shifts, stock, jobs: which.map((i) => p.jobs[i] as PlanProblem['jobs'][number]) };
  const candidates = which.map((i, k) => {
    const job = part.jobs[k] as PlanProblem['jobs'][number];
    return (options.candidates[i] ?? []).filter((s) => {
      const shift = shifts[s];
      if (!shift) return false;
      const there = setUps.get(`${s}/${job.group}`) ?? 0;
      const again = setUpsFor(there + 1, shift.benchSpace) - setUpsFor(there, shift.benchSpace);
      const setUp = again * setUpOf(p, job.group).minutes;
      const own = job.minutes[shift.person] ?? 0;
      const by = standing[s * p.skillNeeded.length + job.group] as number;
      if (by >= 0 && standingMinutes(p, own) > (shifts[by]?.minutes ?? 0)) return false;
      return own + setUp <= shift.minutes;
    });
  });
  const sites = new Set(part.jobs.map((j) => j.site));
  const program = programOf(part, sites, candidates, counts, stockRows(part), standing, {
    setUps,
    visited,
    wanted,
  });
  const own = Int32Array.from(which, (i) => plan[i] as number);
  const found = program.lp.solve(highs, { seconds: options.seconds, gap: 1e-4, start: pointOf(program, own) });
  if (!found) return null;
  const next = plan.slice();
  for (const i of which) next[i] = -1;
  for (const { job, shift, column } of program.choices)
    if ((found.x[column] ?? 0) > 0.5) next[which[job] as number] = shift;
  return next;
}

/** Columns beyond which one integer program over everything is no longer solved in reasonable time. */
const MOST_EXACT_COLUMNS = 6000;

/**
 * The best plan of a small programme by one integer program over everything, from a plan that is known.
 *
 * @returns the plan found and its bound; null where the programme is too large, or nothing better was found
 */
export function exactPlan(
  highs: Highs,
  p: PlanProblem,
  options: { seconds: number; start: Plan },
): { plan: Plan; bound: number } | null {
  const counts = countingShifts(p);
  const candidates = candidateShifts(p, counts);
  if (candidates.reduce((sum, c) => sum + c.length, 0) > MOST_EXACT_COLUMNS) return null;
  const all = new Set(Array.from({ length: p.sites }, (_, s) => s));
  const whole = programOf(p, all, candidates, counts, stockRows(p), standsBy(p));
  const start = pointOf(whole, options.start);
  const found = whole.lp.solve(highs, { seconds: options.seconds, gap: 1e-4, start });
  if (!found) return null;
  const plan: Plan = new Int32Array(p.jobs.length).fill(-1);
  for (const { job, shift, column } of whole.choices) if ((found.x[column] ?? 0) > 0.5) plan[job] = shift;
  return { plan, bound: whole.constant + found.bound };
}
