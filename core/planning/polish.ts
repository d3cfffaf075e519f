import type { Highs } from 'highs';
import { seededChance } from '../chance';
import { replanSome } from './bound';
import { brokenRules, costOf } from './check';
import { candidateShifts, countingShifts, type Plan, type PlanProblem, skusOf, unplannedCost } from './model';

export interface PolishOptions {
  seed: number;
  /** Neighbourhoods to solve. */
  rounds: number;
  /** Stops earlier when this says so. */
  enough?: () => boolean;
}

/** Jobs of a neighbourhood, and how long one may take; most take a fraction of it. */
const SIZE = 45;
const SECONDS = 1.5;
/** Days about a job within which others stand in its way. */
const NEAR_DAYS = 4;

/**
 * Improves a plan where a search of single moves is stuck: takes a job that costs much, and those it competes with for
 * people, days and packs, and solves them together by an integer program while all others stay (large neighbourhood
 * search; Shaw 1998). Yields each better plan. The same seed gives the same plans as long as no neighbourhood runs into
 * its time limit.
 */
export function* polish(
  highs: Highs,
  p: PlanProblem,
  start: Plan,
  options: PolishOptions,
): Generator<{ plan: Plan; cost: number }, void, void> {
  const chance = seededChance(options.seed);
  const counts = countingShifts(p);
  const candidates = candidateShifts(p, counts);
  const able = p.jobs.flatMap((j, i) => ((candidates[i]?.length ?? 0) > 0 && !j.locked ? [i] : []));
  if (able.length === 0) return;
  let plan = start.slice() as Plan;
  let cost = costOf(p, plan).total;
  /** How often a job was the middle of a neighbourhood that brought nothing: others have their turn. */
  const tried = new Float64Array(p.jobs.length);
  const pain = (i: number): number => {
    const job = p.jobs[i] as PlanProblem['jobs'][number];
    const shift = p.shifts[plan[i] as number];
    return shift ? job.weight * Math.max(0, shift.day - job.due) : unplannedCost(p, job);
  };
  for (let round = 0; round < options.rounds && !options.enough?.(); round++) {
    let middle = able[0] as number;
    let most = Number.NEGATIVE_INFINITY;
    for (const i of able) {
      const key = ((pain(i) + 0.5) * chance()) / (1 + (tried[i] as number)) ** 2;
      if (key > most) {
        most = key;
        middle = i;
      }
    }
    const which = neighbourhood(p, plan, middle, able, candidates, chance);
    const next = replanSome(highs, p, plan, which, { seconds: SECONDS, candidates, counts });
    const better = next ? costOf(p, next).total : Number.POSITIVE_INFINITY;
    if (!next || better >= cost - 1e-9 || brokenRules(p, next).length > 0) {
      tried[middle] = (tried[middle] as number) + 1;
      continue;
    }
    plan = next;
    cost = better;
    yield { plan: plan.slice() as Plan, cost };
  }
}

/** The jobs that have most to do with one: its packs, its days at its place, what is left out there. */
function neighbourhood(
  p: PlanProblem,
  plan: Plan,
  middle: number,
  able: readonly number[],
  candidates: readonly (readonly number[])[],
  chance: () => number,
): number[] {
  const own = p.jobs[middle] as PlanProblem['jobs'][number];
  const packs = new Set(skusOf(own));
  const open = new Set(candidates[middle]);
  const at = p.shifts[plan[middle] as number];
  const wants = Math.max(own.release, Math.min(own.due, own.latest ?? own.due, p.days - 1));
  const score = (i: number): number => {
    const job = p.jobs[i] as PlanProblem['jobs'][number];
    const shift = p.shifts[plan[i] as number];
    let near = 0;
    if (skusOf(job).some((s) => packs.has(s))) near += 3;
    if (job.site === own.site) {
      if (!shift) near += 2;
      else if (open.has(plan[i] as number)) {
        near += 1;
        if (Math.abs(shift.day - wants) <= NEAR_DAYS) near += 2;
        if (at && Math.abs(shift.day - at.day) <= NEAR_DAYS) near += 1;
      }
      if (job.group === own.group) near += 1;
    }
    return near * (0.5 + chance()) + 0.1 * chance();
  };
  return able
    .map((i) => ({ i, near: i === middle ? Number.POSITIVE_INFINITY : score(i) }))
    .sort((a, b) => b.near - a.near || a.i - b.i)
    .slice(0, SIZE)
    .map(({ i }) => i)
    .sort((a, b) => a - b);
}
