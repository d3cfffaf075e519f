import loadHighs from 'highs';
import wasmUrl from 'highs/runtime?url';
import { type Bound, exactPlan, lowerBound } from '../../core/planning/bound';
import { brokenRules, costOf } from '../../core/planning/check';
import type { Plan, PlanProblem } from '../../core/planning/model';
import { PlanSearch } from '../../core/planning/search';

export type ToPlanner =
  | { kind: 'search'; problem: PlanProblem; start: Plan; seed: number; moves: number }
  | { kind: 'bound'; problem: PlanProblem; plan: Plan; seconds: number };
export type FromPlanner =
  | { kind: 'better'; plan: Plan; cost: number; progress: number; done: boolean }
  | { kind: 'bound'; bound: Bound };

/** Moves between two messages: some tens of milliseconds. */
const PIECE = 40_000;
const QUIET_MS = 250;

self.onmessage = async (event: MessageEvent<ToPlanner>) => {
  const m = event.data;
  const say = (message: FromPlanner) => self.postMessage(message);
  if (m.kind === 'bound') {
    const highs = await loadHighs({ locateFile: () => wasmUrl });
    const bound = lowerBound(highs, m.problem, { seconds: m.seconds });
    // A small programme is solved outright; its bound is the better one.
    const exact = exactPlan(highs, m.problem, { seconds: m.seconds, start: m.plan });
    const cost = costOf(m.problem, m.plan).total;
    const valid = exact !== null && brokenRules(m.problem, exact.plan).length === 0;
    const better = valid ? costOf(m.problem, exact.plan).total : cost;
    if (exact && better < cost) say({ kind: 'better', plan: exact.plan, cost: better, progress: 1, done: false });
    return say({ kind: 'bound', bound: { ...bound, bound: Math.max(bound.bound, exact?.bound ?? 0) } });
  }
  const search = new PlanSearch(m.problem, { seed: m.seed, moves: m.moves, start: m.start });
  let told = Number.POSITIVE_INFINITY;
  let at = 0;
  while (!search.finished) {
    search.run(PIECE);
    // A page cannot be looked at more often than a few times a second.
    if (search.bestCost < told && performance.now() - at > QUIET_MS) {
      told = search.bestCost;
      at = performance.now();
      say({ kind: 'better', plan: search.best.slice(), cost: told, progress: search.progress, done: false });
    }
  }
  say({ kind: 'better', plan: search.best.slice(), cost: search.bestCost, progress: 1, done: true });
};
