import loadHighs from 'highs';
import wasmUrl from 'highs/runtime?url';
import { type Improvement, improve } from '../../core/planning/improve';
import type { Plan, PlanProblem } from '../../core/planning/model';

export interface ToPlanner {
  problem: PlanProblem;
  start: Plan;
  seed: number;
  moves: number;
  boundSeconds: number;
}
export type FromPlanner = Improvement | { kind: 'end' };

/** A page cannot be looked at more often than a few times a second. */
const QUIET_MS = 300;

self.onmessage = async (event: MessageEvent<ToPlanner>) => {
  const say = (message: FromPlanner) => self.postMessage(message);
  const { problem, start, ...options } = event.data;
  const highs = await loadHighs({ locateFile: () => wasmUrl });
  let at = 0;
  for (const step of improve(problem, start, options, highs)) {
    if (step.kind === 'better' && !step.done && performance.now() - at < QUIET_MS) continue;
    at = performance.now();
    say(step);
  }
  say({ kind: 'end' });
};
