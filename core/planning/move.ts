import { type BrokenRule, brokenByMove, type brokenRules } from './check';
import type { Plan, PlanProblem } from './model';

/**
 * Several jobs put into a shift one after the other, or out of every shift below 0.
 * @returns the plan with all of them there; or what the first that may not go there breaks, and then nothing is moved
 */
export function movedTogether(
  p: PlanProblem,
  plan: Plan,
  which: readonly number[],
  shift: number,
  names: Parameters<typeof brokenRules>[2] = {},
): { plan: Plan; broken: readonly BrokenRule[] } {
  // All are taken out first: what one makes room for another may use.
  const next = plan.slice();
  const moving = which.filter((job) => next[job] !== shift);
  for (const job of moving) next[job] = -1;
  if (shift < 0) return { plan: next, broken: [] };
  for (const job of moving) {
    const broken = brokenByMove(p, next, job, shift, names);
    if (broken.length > 0) return { plan, broken };
    next[job] = shift;
  }
  return { plan: next, broken: [] };
}
