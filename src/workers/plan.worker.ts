import { expose } from 'comlink';
import loadHighs from 'highs';
import wasmUrl from 'highs/runtime?url';
import { type Improvement, improve } from '../../core/planning/improve';
import type { Plan, PlanProblem } from '../../core/planning/model';
import { repaired } from '../../core/planning/repair';

/** A page cannot be looked at more often than a few times a second. */
const QUIET_MS = 500;

const planner = {
  /**
   * Looks for better plans and says each as it is found.
   *
   * @param plan where to begin; what does not hold of it is mended
   */
  async improve(
    problem: PlanProblem,
    plan: Plan,
    options: { seed: number; moves: number; boundSeconds: number; polishSeconds: number },
    say: (step: Improvement) => void,
  ): Promise<void> {
    const highs = await loadHighs({ locateFile: () => wasmUrl });
    let at = 0;
    // The best plan that was not told yet: before anything else is said, it is.
    let untold: Improvement | null = null;
    const from = repaired(problem, plan).plan;
    for (const step of improve(problem, from, { ...options, clock: () => performance.now() }, highs)) {
      if (step.kind === 'better' && !step.done && performance.now() - at < QUIET_MS) {
        untold = step;
        continue;
      }
      if (untold && step.kind !== 'better') say(untold);
      untold = null;
      at = performance.now();
      say(step);
    }
    if (untold) say(untold);
  },
};
export type Planner = typeof planner;
expose(planner);
