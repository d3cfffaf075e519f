import type { Improvement } from '../../../core/planning/improve';
import type { Plan, PlanProblem } from '../../../core/planning/model';
import type { Planner } from '../../workers/plan.worker';

/** Moves to try: by how many jobs there are, some seconds at most. */
const MOVES = { perJob: 30_000, least: 400_000, most: 5_000_000 };
const BOUND_SECONDS = 12;
/** A small programme is solved outright after this; a large one gains little. */
const POLISH_SECONDS = 3;

const movesFor = (jobs: number): number => Math.min(MOVES.most, Math.max(MOVES.least, MOVES.perJob * jobs));

/**
 * Looks for better plans in a worker of its own, until it finds no more.
 *
 * @param ended called once, with what went wrong if something did; not after it was stopped
 * @returns stops it at once
 */
export function search(
  problem: PlanProblem,
  plan: Plan,
  say: (step: Improvement) => void,
  ended: (trouble: string | null) => void,
): () => void {
  const worker = new Worker(new URL('../../workers/plan.worker.ts', import.meta.url), { type: 'module' });
  let stopped = false;
  const stop = () => {
    stopped = true;
    worker.terminate();
  };
  const end = (trouble: string | null) => {
    if (stopped) return;
    stop();
    ended(trouble);
  };
  worker.onerror = (event) => end(event.message);
  const options = {
    seed: 1,
    moves: movesFor(problem.jobs.length),
    boundSeconds: BOUND_SECONDS,
    polishSeconds: POLISH_SECONDS,
  };
  // What is sent is copied first: after the press has been drawn, not before.
  setTimeout(async () => {
    try {
      const { proxy, wrap } = await import('comlink');
      if (stopped) return;
      const tell = proxy((step: Improvement) => {
        if (!stopped) say(step);
      });
      await wrap<Planner>(worker).improve(problem, plan, options, tell);
      end(null);
    } catch (error) {
      end((error as Error).message);
    }
  });
  return stop;
}
