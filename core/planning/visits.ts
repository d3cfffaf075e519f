import { countingShifts, type Plan, type PlanProblem, usedMinutes, visitDaysOf } from './model';

/** A visit after a job of the plan: in which shift there is time for it; -1 where nobody has any. */
export interface PlannedVisit {
  job: number;
  day: number;
  shift: number;
}

/**
 * Who makes the visits that planned jobs bring: on the day they fall due at their place, by the person who did the job
 * where they are there, else by whoever has most time left.
 */
export function plannedVisits(p: PlanProblem, plan: Plan): PlannedVisit[] {
  const counts = countingShifts(p);
  const visitDays = visitDaysOf(p, counts);
  const used = usedMinutes(p, plan);
  const rooms = p.shifts.map((s, i) =>
    counts[i] ? Math.floor((s.minutes - (used[i] as number)) / p.retuneMinutes) : 0,
  );
  const there = new Map<string, number[]>();
  p.shifts.forEach((s, i) => {
    const key = `${s.site}/${s.day}`;
    there.set(key, [...(there.get(key) ?? []), i]);
  });
  const wanted = p.jobs.flatMap((job, i) => {
    const shift = p.shifts[plan[i] ?? -1];
    if (!shift) return [];
    return visitDays(job.site, shift.day, job.visits ?? p.retuneLags).map((day) => ({ job: i, day }));
  });
  wanted.sort((a, b) => a.day - b.day || a.job - b.job);
  return wanted.map(({ job, day }) => {
    const who = p.shifts[plan[job] as number]?.person;
    const open = (there.get(`${p.jobs[job]?.site}/${day}`) ?? []).filter((s) => (rooms[s] as number) > 0);
    open.sort(
      (a, b) =>
        Number(p.shifts[b]?.person === who) - Number(p.shifts[a]?.person === who) ||
        (rooms[b] as number) - (rooms[a] as number) ||
        a - b,
    );
    const shift = open[0] ?? -1;
    if (shift >= 0) rooms[shift] = (rooms[shift] as number) - 1;
    return { job, day, shift };
  });
}
