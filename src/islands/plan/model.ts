import { plural } from '../../../core/count';
import { addDays, sayWeekday } from '../../../core/dates';
import type { PlanNames } from '../../../core/planning/explain';
import { isVisit, type PlanKind } from '../../../core/planning/kinds';
import type { Plan, PlanProblem } from '../../../core/planning/model';
import type { PlanInput } from '../../../server/plan/problem';

/** What somebody tries beside the plan that is shown: minutes and packs more than there are. */
export interface Extras {
  minutes: ReadonlyMap<number, number>;
  packs: ReadonlyMap<number, number>;
}

export const NO_EXTRAS: Extras = { minutes: new Map(), packs: new Map() };

/** A plan with what belongs to it. */
export interface Variant {
  name: string;
  plan: Plan;
  locked: ReadonlySet<number>;
  /** Who stands beside to learn, by job: places of people. */
  learners: ReadonlyMap<number, number>;
  extras: Extras;
}

/** A problem with more minutes in shifts and more packs on the shelf than there are. */
export function withExtras(p: PlanProblem, extras: Extras): PlanProblem {
  if (extras.minutes.size === 0 && extras.packs.size === 0) return p;
  return {
    ...p,
    shifts: p.shifts.map((s, i) => ({ ...s, minutes: s.minutes + (extras.minutes.get(i) ?? 0) })),
    stock: p.stock.map((s, i) => ({ ...s, initial: s.initial + (extras.packs.get(i) ?? 0) })),
  };
}

/** How everything in the plan is called. */
export function namesOf(input: PlanInput): PlanNames {
  const { jobs, people, places, first } = input;
  return {
    job: (n) => `${jobs[n]?.tag ?? ''}${isVisit(jobs[n]?.kind ?? 'change') ? ` (${shortOf(input, n)})` : ''}`,
    person: (n) => people[n]?.name ?? '',
    site: (n) => places[n]?.name ?? '',
    sku: (n) => input.skus[n] ?? '',
    group: (n) => input.groups[n] ?? '',
    day: (n) => sayWeekday(addDays(first, Math.max(0, n))),
    releaseWhy: (n) => jobs[n]?.releaseWhy || 'it is not needed before then',
    closedWhy: (n, shift) => jobs[n]?.closed.find((c) => c.shifts.includes(shift))?.why ?? '',
    wallWhy: (n) => jobs[n]?.wallWhy ?? '',
  };
}

/** What a job is beside its tag, where it is not simply strings. */
const SHORT: Record<PlanKind, string> = {
  change: '',
  service: 'service',
  refit: 'refit',
  inspection: 'inspect',
  retune: 'retune',
  'bridge-check': 'bridge',
  'proper-look': 'stretch',
};
export const shortOf = (input: PlanInput, job: number): string => SHORT[input.jobs[job]?.kind ?? 'change'];

/** What is said of each job at a glance; made once, since dates in words take their time. */
const titles = new WeakMap<PlanInput, string[]>();
export function titleOf(input: PlanInput, job: number): string {
  let known = titles.get(input);
  if (!known) {
    known = input.jobs.map((j) => `${j.name}, due ${sayWeekday(j.dueOn)}`);
    titles.set(input, known);
  }
  return known[job] ?? '';
}

/** Why a job of the published plan has to be placed anew. */
export function cameBackSays({ on, person, aside }: NonNullable<PlanInput['jobs'][number]['cameBack']>): string {
  const when = sayWeekday(on);
  if (aside === 'no-room') return `it did not fit on ${when} in ${person}’s session`;
  if (aside === 'elsewhere')
    return `marked as done elsewhere on ${when} in ${person}’s session, but nothing is recorded`;
  return `not finished on ${when} with ${person}`;
}

/** Minutes of a session in which the bench is somebody else's. */
export const lostToOthers = (input: PlanInput, shift: number): number =>
  (input.shifts[shift]?.minutes ?? 0) - (input.problem.shifts[shift]?.minutes ?? 0);

/** Jobs of each shift. */
export function jobsByShift(shifts: number, plan: Plan): number[][] {
  const inShift: number[][] = Array.from({ length: shifts }, () => []);
  plan.forEach((s, i) => {
    inShift[s]?.push(i);
  });
  return inShift;
}

/** What was said to be more than there is. */
export function sayExtras(extras: Extras, input: PlanInput, names: PlanNames): string {
  const minutes = [...extras.minutes].map(([s, m]) => {
    const shift = input.problem.shifts[s];
    return shift
      ? `${m} more ${plural(m, 'minute')} for ${names.person(shift.person)} at ${names.site(shift.site)} on ${names.day(shift.day)}`
      : '';
  });
  const packs = [...extras.packs].map(([s, n]) => `${n} more ${input.skus[s]}`);
  return [...minutes, ...packs].filter(Boolean).join(', ');
}
