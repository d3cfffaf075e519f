import { count } from '../../../core/count';
import { daysBetween, sayWeekday } from '../../../core/dates';
import { brokenRules } from '../../../core/planning/check';
import type { Plan } from '../../../core/planning/model';
import { quickPlan } from '../../../core/planning/quick';
import { placedAgain, repaired } from '../../../core/planning/repair';
import type { PlanInput } from '../../../server/plan/problem';
import { cameBackSays, namesOf } from './model';

/**
 * The plan to begin with: the one in force, which of its jobs can no longer stand where they did, and why; what came
 * since stands where there is room beside all others.
 */
export function beginning(input: PlanInput): { plan: Plan; freed: number[]; why: string[]; fresh: number[] } {
  const published = Int32Array.from(input.problem.jobs, (j) => j.published ?? -1);
  if (input.planId === null || published.every((s) => s < 0))
    return { plan: quickPlan(input.problem), freed: [], why: [], fresh: [] };
  const names = namesOf(input);
  const { plan, freed } = repaired(input.problem, published);
  const broken = brokenRules(input.problem, published, names).filter((b) => b.rule !== 'locked');
  const lost = input.jobs.flatMap((j) =>
    j.lost ? [`${j.lost.person} is no longer working on ${names.day(daysBetween(input.first, j.lost.on))}.`] : [],
  );
  const back = input.jobs.flatMap((j, i) => (j.lost || j.cameBack ? [i] : []));
  const fresh = input.problem.jobs.flatMap((j, i) => (j.published === null ? [i] : []));
  const open = [...back, ...fresh];
  const begun = open.length > 0 ? placedAgain(input.problem, plan, open) : plan;
  const unfinished = new Map<string, number>();
  for (const j of input.jobs)
    if (j.cameBack?.aside === '') {
      const on = sayWeekday(j.cameBack.on);
      unfinished.set(on, (unfinished.get(on) ?? 0) + 1);
    }
  return {
    plan: begun,
    fresh: fresh.filter((i) => (begun[i] as number) >= 0),
    freed: [...back, ...freed],
    why: [
      ...input.jobs.flatMap((j) => (j.cameBack?.aside ? [`${j.tag}: ${cameBackSays(j.cameBack)}.`] : [])),
      ...[...unfinished].map(([on, n]) => `${count(n, 'task')} from ${on} not finished.`),
      ...new Set([...lost, ...broken.map((b) => b.says)]),
    ],
  };
}
