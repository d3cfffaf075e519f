import loadHighs from 'highs';
import wasmUrl from 'highs/runtime?url';
import { type Improvement, improve } from '../../core/planning/improve';
import type { Plan, PlanProblem } from '../../core/planning/model';
import { repaired } from '../../core/planning/repair';

export interface ToPlanner {
  problem: PlanProblem;
  /** Where to begin; what does not hold of it is mended. */
  plan: Plan;
  seed: number;
  moves: number;
  boundSeconds: number;
  polishSeconds: number;
}
export type FromPlanner = Improvement | { kind: 'end' };

/** A page cannot be looked at more often than a few times a second. */
const QUIET_MS = 500;

self.onmessage = async (event: MessageEvent<ToPlanner>) => {
  const say = (message: FromPlanner) => self.postMessage(message);
  const { problem, plan, ...options } = event.data;
  const highs = await loadHighs({ locateFile: () => wasmUrl });
  let at = 0;
  // The best plan that was not told yet: before anything else is said, it is.
  let untold: Improvement | null = null;
  for (const step of improve(
    problem,
    repaired(problem, plan).plan,
    { ...options, clock: () => performance.now() },
    highs,
  )) {
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
  say({ kind: 'end' });
};
