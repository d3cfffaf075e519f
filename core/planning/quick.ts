import type { Plan, PlanProblem } from './model';
import { PlanState } from './state';

/**
 * A plan at once: jobs by how much hangs on them and how little choice they have, each where it costs least; then those
 * left out once more. Locked jobs stay where they are published.
 */
export function quickPlan(problem: PlanProblem): Plan {
  const state = new PlanState(problem);
  const jobs = problem.jobs.map((_, i) => i);
  for (const i of jobs) {
    const job = problem.jobs[i];
    if (job?.locked && job.published != null && job.published >= 0) state.put(i, job.published);
  }
  const choices = (i: number) => (state.candidateFrom[i + 1] as number) - (state.candidateFrom[i] as number);
  const rank = (i: number): number => {
    const job = problem.jobs[i];
    return job ? job.due - 3 * job.weight - (job.latest === null ? 0 : 8) + Math.min(20, choices(i)) / 10 : 0;
  };
  const order = jobs.filter((i) => state.plan[i] === -1 && state.movable[i]).sort((a, b) => rank(a) - rank(b) || a - b);
  for (let round = 0; round < 2; round++)
    for (const i of order) {
      if ((state.plan[i] as number) >= 0) continue;
      const best = bestShift(state, i);
      if (best.shift >= 0 && best.change < 0) state.put(i, best.shift);
    }
  return state.plan.slice();
}

/** The shift in which an unplanned job costs least now; -1 where none takes it. */
export function bestShift(state: PlanState, job: number): { shift: number; change: number } {
  let shift = -1;
  let least = Number.POSITIVE_INFINITY;
  const end = state.candidateFrom[job + 1] as number;
  for (let c = state.candidateFrom[job] as number; c < end; c++) {
    const s = state.candidates[c] as number;
    if (state.leastChange(job, s) >= least || !state.fits(job, s)) continue;
    const change = state.put(job, s);
    state.take(job);
    if (change < least) {
      least = change;
      shift = s;
    }
  }
  return { shift, change: least };
}

/** The baseline: earliest due date first, into the first shift that takes it. */
export function earliestDueDate(problem: PlanProblem): Plan {
  const state = new PlanState(problem);
  const order = problem.jobs
    .map((_, i) => i)
    .sort((a, b) => (problem.jobs[a]?.due ?? 0) - (problem.jobs[b]?.due ?? 0) || a - b);
  const byDay = (a: number, b: number) => (state.shiftDay[a] as number) - (state.shiftDay[b] as number) || a - b;
  for (const i of order) {
    const from = state.candidateFrom[i] as number;
    const list = Array.from(state.candidates.subarray(from, state.candidateFrom[i + 1])).sort(byDay);
    const shift = list.find((s) => state.fits(i, s));
    if (shift !== undefined) state.put(i, shift);
  }
  return state.plan.slice();
}
