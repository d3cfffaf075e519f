import { parentPort, workerData } from 'node:worker_threads';
import loadHighs from 'highs';
import { improve } from '../../core/planning/improve';
import type { Plan, PlanProblem } from '../../core/planning/model';
import type { Answered } from '../apart';

/** What the night's worker is given, and its answer. */
export interface NightTask {
  problem: PlanProblem;
  start: Plan;
  seed: number;
  moves: number;
  boundSeconds: number;
  polishSeconds: number;
}
export interface NightAnswer {
  plan: Plan;
  cost: number;
  /** Null where nothing was proven. */
  bound: number | null;
}

const { problem, start, ...options } = workerData as NightTask;
const answer: NightAnswer = { plan: start, cost: Number.POSITIVE_INFINITY, bound: null };
for (const step of improve(problem, start, { ...options, clock: () => performance.now() }, await loadHighs())) {
  if (step.kind === 'better') Object.assign(answer, { plan: step.plan, cost: step.cost });
  if (step.kind === 'bound') answer.bound = step.bound;
  // What would help is asked for in the page.
  if (step.kind === 'helps') break;
}
parentPort?.postMessage({ made: answer } satisfies Answered<NightAnswer>);
