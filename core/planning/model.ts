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
  /** Shifts, by their place in the list, in which it cannot be had, or would not be ready for what follows. */
  closed?: readonly number[];
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
  /** Share of such a job's minutes that whoever stands by gives; absent: none. */
  supervisionShare?: number;
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

/** Minutes that jobs take in a shift, with what has to be set up for them; standing by for others apart. */
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

/** Minutes that whoever stands by gives for a job that takes so many. */
export const standingMinutes = (p: PlanProblem, minutes: number): number =>
  Math.ceil((p.supervisionShare ?? 0) * minutes);

/** Minutes in use by shift: its jobs with what is set up for them, and standing by for those who learn. */
export function usedMinutes(p: PlanProblem, plan: Plan): number[] {
  const inShift: number[][] = p.shifts.map(() => []);
  plan.forEach((s, i) => {
    inShift[s]?.push(i);
  });
  const used = inShift.map((there, s) => sessionMinutes(p, s, there));
  for (const { by, minutes } of supervisedJobs(p, plan)) used[by] = (used[by] as number) + minutes;
  return used;
}

/** Jobs of a plan that are done under supervision, the shift of whoever stands by, and the minutes they give. */
export function supervisedJobs(
  p: PlanProblem,
  plan: Plan,
  standing: Int32Array = standsBy(p),
): { job: number; by: number; minutes: number }[] {
  const groups = p.skillNeeded.length;
  return p.jobs.flatMap((j, job) => {
    const s = plan[job] ?? -1;
    const by = standing[s * groups + j.group] ?? ALONE;
    if (s < 0 || by < 0) return [];
    return [{ job, by, minutes: standingMinutes(p, j.minutes[p.shifts[s]?.person ?? -1] ?? 0) }];
  });
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
  const standing = standsBy(p);
  const groups = p.skillNeeded.length;
  return p.jobs.map((job) => {
    const away = job.away?.length ? new Set(job.away) : null;
    const closed = job.closed?.length ? new Set(job.closed) : null;
    const setUp = setUpOf(p, job.group).minutes;
    return (bySite[job.site] ?? []).filter((i) => {
      const s = p.shifts[i] as PlanShift;
      if (s.day < job.release || (job.latest !== null && s.day > job.latest) || away?.has(s.day)) return false;
      if (closed?.has(i)) return false;
      const by = standing[i * groups + job.group] as number;
      const minutes = job.minutes[s.person] as number;
      if (by === NOBODY || minutes + setUp > s.minutes) return false;
      return by === ALONE || standingMinutes(p, minutes) <= (p.shifts[by] as PlanShift).minutes;
    });
  });
}

/** Of `standsBy`: nobody is needed there; nobody can. */
export const ALONE = -1;
export const NOBODY = -2;

/**
 * Who stands by, by shift and group (`shift × groups + group`): the place of the shift of whoever does, `ALONE` where
 * the shift's own person needs nobody, `NOBODY` where they may not do the group there. Of several who could it is the
 * first in the list, whatever else is planned, so that who stands by hangs on the rota alone.
 */
export function standsBy(p: PlanProblem): Int32Array {
  const groups = p.skillNeeded.length;
  const standing = new Int32Array(p.shifts.length * groups).fill(NOBODY);
  const teaching = new Map<number, number[]>();
  if (p.underSupervision)
    p.shifts.forEach((s, i) => {
      const who = p.people[s.person];
      if (s.minutes <= 0 || who?.helper || !who?.teaches?.includes(true)) return;
      const cell = s.site * p.days + s.day;
      const list = teaching.get(cell);
      if (list) list.push(i);
      else teaching.set(cell, [i]);
    });
  p.shifts.forEach((s, i) => {
    const beside = (teaching.get(s.site * p.days + s.day) ?? []).filter((o) => {
      const other = p.shifts[o] as PlanShift;
      return other.person !== s.person && areBeside(other, s);
    });
    for (let g = 0; g < groups; g++) {
      const [level, needed] = [p.people[s.person]?.skill[g] ?? 0, p.skillNeeded[g] as number];
      if (level >= needed) standing[i * groups + g] = ALONE;
      else if (level > 0 && level === needed - 1)
        standing[i * groups + g] =
          beside.find((o) => p.people[(p.shifts[o] as PlanShift).person]?.teaches?.[g]) ?? NOBODY;
    }
  });
  return standing;
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
