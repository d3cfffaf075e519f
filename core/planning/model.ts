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
  /** Minutes it takes each person. */
  minutes: readonly number[];
  /** First day on which it can be done. */
  release: number;
  /** Day by which it should be done; it may lie before the release. */
  due: number;
  /** Last day on which it may be done at all, as before a concert; null: any. */
  latest: number | null;
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
  minutes: number;
}

export interface PlanPerson {
  /** Helpers count only beside somebody who may supervise, on the same day at the same place. */
  helper: boolean;
  supervisor: boolean;
  /** Level by group. */
  skill: readonly number[];
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
  stock: readonly PlanStock[];
  /** Minutes to set up for a group in a shift, and minutes of one retune visit. */
  setUpMinutes: number;
  retuneMinutes: number;
  /** Days after a job on which its visits fall due at its place. */
  retuneLags: readonly number[];
  weights: PlanWeights;
}

export interface PlanWeights {
  /** Points for each set-up and each visit nobody has time for. */
  setUp: number;
  missedRetune: number;
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
  changes: number;
  total: number;
}

/** Whether a shift counts: of somebody on their own, or of a helper with somebody who supervises. */
export function countingShifts(p: PlanProblem): boolean[] {
  return p.shifts.map((s) => {
    if (!p.people[s.person]?.helper) return true;
    return p.shifts.some(
      (o) => o.day === s.day && o.site === s.site && !p.people[o.person]?.helper && p.people[o.person]?.supervisor,
    );
  });
}

/** Points a job costs when it is not planned. */
export function unplannedCost(p: PlanProblem, job: PlanJob): number {
  const days = p.weights.unplannedDays + Math.max(0, p.days - job.due);
  return job.weight * days * (job.latest === null ? 1 : p.weights.wall);
}

/** Shifts, by their place in the list, in which a job can be done at all. */
export function candidateShifts(p: PlanProblem, counts: readonly boolean[] = countingShifts(p)): number[][] {
  return p.jobs.map((job) =>
    p.shifts.flatMap((s, i) => {
      const person = p.people[s.person];
      if (!counts[i] || !person || s.site !== job.site || s.day < job.release) return [];
      if (job.latest !== null && s.day > job.latest) return [];
      if ((person.skill[job.group] ?? 0) < (p.skillNeeded[job.group] ?? 0)) return [];
      return (job.minutes[s.person] as number) + p.setUpMinutes <= s.minutes ? [i] : [];
    }),
  );
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
