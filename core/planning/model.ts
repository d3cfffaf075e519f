/**
 * A plan decides which job is done in which shift. Days are whole numbers from the first day looked at; minutes are
 * whole minutes; costs are in points, whose weights the programme sees and sets.
 */

/** Strings changed, or a visit or an inspection that somebody has to make. */
export interface PlanJob {
  id: number;
  site: number;
  /** Jobs of one group have the same parts and method: a shift sets up for it once. */
  group: number;
  /** Packs it uses up; -1 where it uses none. */
  sku: number;
  /** Further packs it counts against: those of sets that may stand in for each other, taken together. */
  pools?: readonly number[];
  /** Minutes it takes each person. */
  minutes: readonly number[];
  /** First day on which it can be done. */
  release: number;
  /** Day by which it should be done; it may lie before the release. */
  due: number;
  /** Last day on which it may be done at all, as before a concert; null: any. */
  latest: number | null;
  /** Days between on which it cannot be had, as with a player in lessons. */
  away?: readonly number[];
  /** Days after it on which visits fall due; absent: those of the problem. */
  visits?: readonly number[];
  weight: number;
  /** Where it stands in the plan that is published; moving it costs. Null: nowhere. */
  published?: number | null;
  /** It stays where it is put. */
  locked?: boolean;
}

export interface PlanShift {
  id: number;
  person: number;
  day: number;
  site: number;
  /** With none, nobody is there: who is away supervises nobody. */
  minutes: number;
  /** Minute of the day at which it begins; absent: it may be any, and counts as beside all others of its day there. */
  startsMinute?: number;
  /** Instruments of one set-up that lie on the bench together; more need setting up again. Absent: any number. */
  benchSpace?: number;
  /** Minutes to get there and back from where the person is based; they cost only where there is work. */
  travelMinutes?: number;
}

export interface PlanPerson {
  /** Helpers count only beside somebody who may supervise, on the same day at the same place. */
  helper: boolean;
  supervisor: boolean;
  /** Level by group. */
  skill: readonly number[];
  /** Whether they may stand beside somebody who learns a group. */
  teaches?: readonly boolean[];
  /** Minutes worked and minutes there were, of the term until now: fairness counts them too. */
  workedMinutes?: number;
  hadMinutes?: number;
}

/** Packs there at the start and those that come. */
export interface PlanStock {
  initial: number;
  arrivals: readonly { day: number; packs: number }[];
}

export interface PlanProblem {
  days: number;
  sites: number;
  people: readonly PlanPerson[];
  shifts: readonly PlanShift[];
  jobs: readonly PlanJob[];
  /** Level a person needs for each group. */
  skillNeeded: readonly number[];
  /** Whether somebody one level short may do a job beside somebody who teaches its group. */
  underSupervision?: boolean;
  stock: readonly PlanStock[];
  /** Minutes to set up for a group in a shift, and minutes of one retune visit. */
  setUpMinutes: number;
  /** Where groups differ: minutes to set up for each; a group without any costs no points either. */
  setUpByGroup?: readonly number[];
  retuneMinutes: number;
  /** Days after a job on which its visits fall due at its place. */
  retuneLags: readonly number[];
  /** A visit may be so many days later when nobody is at its place on its day. */
  retuneGrace?: number;
  weights: PlanWeights;
}

export interface PlanWeights {
  /** Points for each set-up and each visit nobody has time for. */
  setUp: number;
  missedRetune: number;
  /** Points for each hour on the way to places. */
  travel?: number;
  /** Points for each hour by which loads differ: hours of work times the variance of how full people's time is. */
  fairness?: number;
  /** Points for moving a published job. */
  change: number;
  /** An unplanned job costs its weight times this many days, and the days from its due date to the end. */
  unplannedDays: number;
  /** A job with a wall that is not planned costs so many times as much. */
  wall: number;
}

/** A plan: for each job, by its place in the list, the place of its shift in the list; -1: not planned. */
export type Plan = Int32Array;

export interface PlanCost {
  tardiness: number;
  unplanned: number;
  setUp: number;
  missed: number;
  travel: number;
  fairness: number;
  changes: number;
  total: number;
}

/** Minutes to set up for a group, and the points it costs. */
export function setUpOf(p: PlanProblem, group: number): { minutes: number; points: number } {
  const minutes = p.setUpByGroup?.[group] ?? p.setUpMinutes;
  return { minutes, points: p.setUpByGroup && minutes === 0 ? 0 : p.weights.setUp };
}

/** How often one sets up for some jobs of a group, where so many lie on the bench together. */
export const setUpsFor = (jobs: number, benchSpace: number | undefined): number =>
  benchSpace === undefined ? Math.min(jobs, 1) : Math.ceil(jobs / benchSpace);

/** Minutes that jobs take in a shift, with what has to be set up for them. */
export function sessionMinutes(p: PlanProblem, shift: number, jobs: readonly number[]): number {
  const person = p.shifts[shift]?.person ?? -1;
  const space = p.shifts[shift]?.benchSpace;
  let sum = 0;
  const groups = new Map<number, number>();
  for (const i of jobs) {
    const job = p.jobs[i];
    if (!job) continue;
    sum += job.minutes[person] ?? 0;
    groups.set(job.group, (groups.get(job.group) ?? 0) + 1);
  }
  for (const [g, n] of groups) sum += setUpsFor(n, space) * setUpOf(p, g).minutes;
  return sum;
}

/** Points for going to a shift's place. */
export function travelCost(p: PlanProblem, shift: PlanShift): number {
  return ((p.weights.travel ?? 0) * (shift.travelMinutes ?? 0)) / 60;
}

/** Whether two people are at one place at one time, if only for a part of it. */
export function areBeside(a: PlanShift, b: PlanShift): boolean {
  if (a.day !== b.day || a.site !== b.site || a.minutes <= 0 || b.minutes <= 0) return false;
  if (a.startsMinute === undefined || b.startsMinute === undefined) return true;
  return a.startsMinute < b.startsMinute + b.minutes && b.startsMinute < a.startsMinute + a.minutes;
}

/** Whether a shift counts: of somebody on their own, or of a helper with somebody who supervises. */
export function countingShifts(p: PlanProblem): boolean[] {
  return p.shifts.map((s) => {
    if (s.minutes <= 0) return false;
    if (!p.people[s.person]?.helper) return true;
    return p.shifts.some((o) => areBeside(o, s) && !p.people[o.person]?.helper && p.people[o.person]?.supervisor);
  });
}

/** Points a job costs when it is not planned. */
export function unplannedCost(p: PlanProblem, job: PlanJob): number {
  const days = p.weights.unplannedDays + Math.max(0, p.days - job.due);
  return job.weight * days * (job.latest === null ? 1 : p.weights.wall);
}

/** Shifts, by their place in the list, in which a job can be done at all. */
export function candidateShifts(p: PlanProblem, counts: readonly boolean[] = countingShifts(p)): number[][] {
  const bySite: number[][] = Array.from({ length: p.sites }, () => []);
  p.shifts.forEach((s, i) => {
    if (counts[i]) bySite[s.site]?.push(i);
  });
  const levels = shiftLevels(p);
  return p.jobs.map((job) => {
    const away = job.away?.length ? new Set(job.away) : null;
    const needed = p.skillNeeded[job.group] ?? 0;
    const setUp = setUpOf(p, job.group).minutes;
    return (bySite[job.site] ?? []).filter((i) => {
      const s = p.shifts[i] as PlanShift;
      if (s.day < job.release || (job.latest !== null && s.day > job.latest) || away?.has(s.day)) return false;
      if ((levels[i]?.[job.group] ?? 0) < needed) return false;
      return (job.minutes[s.person] as number) + setUp <= s.minutes;
    });
  });
}

/** What each shift's person may do of each group there: one level more beside somebody who teaches it. */
function shiftLevels(p: PlanProblem): (readonly number[])[] {
  if (!p.underSupervision) return p.shifts.map((s) => p.people[s.person]?.skill ?? []);
  const taught = new Map<string, PlanShift[]>();
  for (const s of p.shifts) {
    if (s.minutes <= 0 || !p.people[s.person]?.teaches?.includes(true)) continue;
    const key = `${s.day}/${s.site}`;
    const list = taught.get(key);
    if (list) list.push(s);
    else taught.set(key, [s]);
  }
  return p.shifts.map((s) => {
    const beside = taught.get(`${s.day}/${s.site}`)?.filter((o) => o.person !== s.person && areBeside(o, s)) ?? [];
    return (p.people[s.person]?.skill ?? []).map((level, g) =>
      level > 0 && beside.some((o) => p.people[o.person]?.teaches?.[g]) ? level + 1 : level,
    );
  });
}

/** Days on which the visits after a job done on a day fall: where somebody is there, within the grace that there is. */
export type VisitDays = (site: number, day: number, lags: readonly number[]) => number[];

export function visitDaysOf(p: PlanProblem, counts: readonly boolean[]): VisitDays {
  const somebody = new Set(p.shifts.flatMap((s, i) => (counts[i] ? [s.site * p.days + s.day] : [])));
  const grace = p.retuneGrace ?? 0;
  return (site, day, lags) => {
    const days: number[] = [];
    for (const lag of lags) {
      if (day + lag >= p.days) continue;
      let on = day + lag;
      for (let later = 1; later <= grace && !somebody.has(site * p.days + on); later++)
        if (day + lag + later < p.days && somebody.has(site * p.days + day + lag + later)) on = day + lag + later;
      // Two that fall on one day are one visit.
      if (!days.includes(on)) days.push(on);
    }
    return days;
  };
}

/** All packs a job counts against. */
export function skusOf(job: PlanJob): number[] {
  return [...(job.sku < 0 ? [] : [job.sku]), ...(job.pools ?? [])];
}

/** Packs there by the end of each day. */
export function availableByDay(p: PlanProblem, sku: number): number[] {
  const stock = p.stock[sku];
  return Array.from(
    { length: p.days },
    (_, day) =>
      (stock?.initial ?? 0) + (stock?.arrivals ?? []).reduce((sum, a) => sum + (a.day <= day ? a.packs : 0), 0),
  );
}
