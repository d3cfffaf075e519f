import type { Plan, PlanProblem } from './model';
import { bestShift, quickPlan } from './quick';
import { PlanState } from './state';

/**
 * A plan that no longer holds, valid again with little moved: what still fits stays where it is, locked jobs and those
 * that weigh most first; the others go where they cost least, or are left out.
 *
 * @param plan places in `problem.shifts`, as after a day off, a late delivery or a loan that none of it knew
 * @returns the plan, and the jobs that could not stay
 */
export function repaired(problem: PlanProblem, plan: Plan): { plan: Plan; freed: number[] } {
  const state = new PlanState(problem);
  const jobs = problem.jobs.map((_, i) => i).filter((i) => (plan[i] ?? -1) >= 0);
  const need = (i: number): number => {
    const job = problem.jobs[i];
    return job ? 1000 * Number(Boolean(job.locked)) + 100 * Number(job.latest !== null) + 10 * job.weight : 0;
  };
  jobs.sort((a, b) => need(b) - need(a) || (problem.jobs[a]?.due ?? 0) - (problem.jobs[b]?.due ?? 0) || a - b);
  const freed: number[] = [];
  for (const i of jobs) {
    const at = plan[i] as number;
    if (state.allowed(i, at) && state.fits(i, at)) state.put(i, at);
    else freed.push(i);
  }
  for (const i of freed) {
    const best = bestShift(state, i);
    if (best.shift >= 0 && best.change < 0) state.put(i, best.shift);
  }
  return { plan: state.plan.slice(), freed };
}

/**
 * Puts jobs where they cost least while all others stay: those whose shift is gone, or that came back unfinished.
 *
 * @param which places of the jobs in `problem.jobs`
 */
export function placedAgain(problem: PlanProblem, plan: Plan, which: readonly number[]): Plan {
  const open = new Set(which);
  return quickPlan({
    ...problem,
    jobs: problem.jobs.map((j, i) =>
      open.has(i) ? { ...j, locked: false } : { ...j, locked: true, published: plan[i] as number },
    ),
  });
}
