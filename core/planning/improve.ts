import type { Highs } from 'highs';
import { exactPlan } from './bound';
import { brokenRules, costOf } from './check';
import type { Plan, PlanProblem } from './model';
import { polish } from './polish';
import { type Bound, lowerBound } from './prices';
import { PlanSearch } from './search';

/** A plan that is better than the ones before, or how good it is proven to be, or what would help most. */
export type Improvement =
  | { kind: 'better'; plan: Plan; cost: number; progress: number; done: boolean }
  | { kind: 'bound'; bound: number }
  | { kind: 'doubt'; says: string }
  | { kind: 'helps'; helps: Help[] };

/** Something more of one thing, and what a plan with it saves. */
export interface Help {
  what: { shift: number; minutes: number } | { sku: number; packs: number };
  points: number;
  /** A plan with it, and the one that as long a search finds without. */
  plan: Plan;
  without: Plan;
}

export interface ImproveOptions {
  seed: number;
  moves: number;
  boundSeconds: number;
  /** Seconds for solving pieces of the plan outright, after the search. */
  polishSeconds: number;
  /** Milliseconds that only rise. */
  clock: () => number;
  /** Moves between two looks: some tens of milliseconds. */
  piece?: number;
}

const PIECE = 40_000;
const POLISH_ROUNDS = 60;
/** Prices of a few hundred jobs stand still after so many rounds. */
const BOUND_ROUNDS = 3000;
/** So few are enough to say which shifts a job should be looked for in. */
const GUIDE_ROUNDS = 80;
const HELP_MINUTES = 60;
const HELPS_TRIED = 4;
const HELP_MOVES = 200_000;

/**
 * Improves a plan step by step: a search that can be left after every piece, led by rough prices, then pieces solved
 * outright where it is stuck, one integer program over everything where the programme is small enough, a proven bound,
 * and what would help most. The same in a page's worker and in the server's at night. Every plan it gives is valid.
 *
 * @param highs loaded when the bound is wanted; absent: the search only
 */
export function* improve(
  p: PlanProblem,
  start: Plan,
  options: ImproveOptions,
  highs?: Highs,
): Generator<Improvement, void, void> {
  const { favoured } = lowerBound(p, {
    plan: start,
    cost: costOf(p, start).total,
    part: (rounds) => rounds / GUIDE_ROUNDS,
  });
  const search = new PlanSearch(p, { seed: options.seed, moves: options.moves, start, favoured });
  let told = Number.POSITIVE_INFINITY;
  while (!search.finished) {
    search.run(options.piece ?? PIECE);
    if (search.bestCost >= told - 1e-9 && !search.finished) continue;
    told = search.bestCost;
    yield { kind: 'better', plan: search.best.slice(), cost: told, progress: search.progress, done: search.finished };
  }
  if (search.progress >= 1 && told === Number.POSITIVE_INFINITY)
    yield { kind: 'better', plan: search.best.slice(), cost: search.bestCost, progress: 1, done: true };
  if (!highs) return;
  let plan: Plan = search.best.slice();
  let cost = search.bestCost;
  const until = options.clock() + 1000 * options.polishSeconds;
  const pieces = polish(highs, p, plan, {
    seed: options.seed,
    rounds: POLISH_ROUNDS,
    enough: () => options.clock() > until,
  });
  for (const better of pieces) {
    ({ plan, cost } = better);
    yield { kind: 'better', plan, cost, progress: 1, done: false };
  }
  const began = options.clock();
  const bound = lowerBound(p, {
    plan,
    cost,
    part: (rounds) => Math.max(rounds / BOUND_ROUNDS, (options.clock() - began) / (1000 * options.boundSeconds)),
  });
  yield boundOrDoubt(bound.bound, cost);
  const exact = exactPlan(highs, p, { seconds: options.boundSeconds, start: plan });
  if (exact && brokenRules(p, exact.plan).length === 0) {
    const found = costOf(p, exact.plan).total;
    if (found < cost - 1e-9) {
      plan = exact.plan;
      cost = found;
      yield { kind: 'better', plan: plan.slice(), cost, progress: 1, done: true };
    }
  }
  if (exact) yield boundOrDoubt(Math.max(bound.bound, exact.bound), cost);
  yield { kind: 'helps', helps: helpsMost(p, plan, bound, options.seed) };
}

/** Cost by which sums of many numbers differ by rounding alone. */
const ROUNDING = 1e-6;

/**
 * A bound as it may be told. One above the cost of a plan that keeps all rules is no bound: something is wrong with it,
 * and that is said instead.
 */
function boundOrDoubt(bound: number, cost: number): Improvement {
  if (bound <= cost + ROUNDING * Math.max(1, cost)) return { kind: 'bound', bound: Math.min(bound, cost) };
  return {
    kind: 'doubt',
    says: 'How good this plan is could not be worked out. The plan itself keeps every rule.',
  };
}

/**
 * What would help most: where the prices of the bound say that more minutes or packs are worth most, the plan is solved
 * again with them, from where it stands, and the difference counts.
 */
export function helpsMost(p: PlanProblem, plan: Plan, bound: Bound, seed: number): Help[] {
  const tries = [
    ...p.shifts.map((_, shift) => ({
      price: HELP_MINUTES * (bound.minutePrice[shift] ?? 0),
      what: { shift, minutes: HELP_MINUTES },
    })),
    ...p.stock.map((_, sku) => ({ price: bound.packPrice[sku] ?? 0, what: { sku, packs: 1 } })),
  ]
    .filter((t) => t.price > 0.5)
    .sort((a, b) => b.price - a.price)
    .slice(0, HELPS_TRIED);
  if (tries.length === 0) return [];
  // The same search without anything more: what it finds is not owed to the help.
  const base = solveFrom(p, plan, seed, bound.favoured);
  return tries
    .map(({ what }): Help => {
      const more: PlanProblem =
        'shift' in what
          ? {
              ...p,
              shifts: p.shifts.map((s, i) => (i === what.shift ? { ...s, minutes: s.minutes + what.minutes } : s)),
            }
          : { ...p, stock: p.stock.map((s, i) => (i === what.sku ? { ...s, initial: s.initial + what.packs } : s)) };
      const found = solveFrom(more, plan, seed, bound.favoured);
      return { what, points: base.bestCost - found.bestCost, plan: found.best, without: base.best };
    })
    .filter((h) => h.points >= 0.5)
    .sort((a, b) => b.points - a.points);
}

function solveFrom(p: PlanProblem, plan: Plan, seed: number, favoured: readonly Int32Array[]): PlanSearch {
  const search = new PlanSearch(p, { seed, moves: HELP_MOVES, start: plan, favoured });
  search.run(HELP_MOVES);
  return search;
}

/** Jobs after their due date, and jobs in no shift. */
export function lateAndOut(p: PlanProblem, plan: Plan): { late: number; out: number } {
  let late = 0;
  let out = 0;
  p.jobs.forEach((j, i) => {
    const shift = p.shifts[plan[i] ?? -1];
    if (!shift) out += 1;
    else if (shift.day > j.due) late += 1;
  });
  return { late, out };
}
