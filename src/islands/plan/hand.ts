import type { PersonChange } from '../../../core/planning/changes';
import type { Help } from '../../../core/planning/improve';
import type { Plan, PlanProblem } from '../../../core/planning/model';

import type { ProgrammeWeights } from '../../../server/plan/weights';
import { type Extras, NO_EXTRAS, type Variant, withExtras } from './model';

/** Plans that can be gone back to. */
const MOST_UNDONE = 50;

export interface Absence {
  /** Places in the plan's people and days, to the last. */
  person: number;
  day: number;
  to: number;
}

/** A plan that can be gone back to, with the absence that was entered with the step after it. */
interface Past {
  plan: Plan;
  absence?: Absence;
}

export interface Notice {
  text: string;
  bad: boolean;
}

/** Where a search is: looking, with the share that is done; proving how good its plan is. */
export type Solving = { state: 'looking'; progress: number } | { state: 'proving' };

/** What somebody has in hand on the plan's page, none of it published yet. */
export interface Hand {
  plan: Plan;
  past: readonly Past[];
  /** Jobs that stay where they stand. */
  locked: ReadonlySet<number>;
  /** Who stands beside to learn, by job. */
  learners: ReadonlyMap<number, number>;
  extras: Extras;
  /** Minutes more in shifts that were said to everybody since the page was opened. */
  real: ReadonlyMap<number, number>;
  /** Days on which somebody was said to be away: "person/day". */
  away: ReadonlySet<string>;
  notice: Notice | null;
  solving: Solving | null;
  /** Proven of the plan that is shown: no plan costs less. */
  bound: number | null;
  helps: readonly Help[] | null;
  kept: readonly Variant[];
  told: { told: PersonChange[]; done: string[] } | null;
  weights: ProgrammeWeights & { version: number };
  /** The plan that the next one is published in the place of. */
  basedOn: number | null;
}

export type HandEvent =
  /** Another plan in the place of this one, which can be gone back to. */
  | { does: 'changed'; plan: Plan; notice?: Notice; absence?: Absence }
  | { does: 'undone'; notice: Notice }
  | { does: 'searched' }
  | { does: 'bettered'; plan: Plan; progress: number; done: boolean }
  | { does: 'bounded'; bound: number }
  | { does: 'helped'; helps: readonly Help[] }
  | { does: 'stopped'; notice?: Notice }
  | { does: 'locked'; jobs: readonly number[] }
  | { does: 'taught'; job: number; who: number | null }
  | { does: 'kept' }
  | { does: 'took'; variant: Variant }
  | { does: 'tried'; help: Help; notice: Notice }
  /** A help that is so now: somebody stays longer. */
  | { does: 'madeSo'; shift: number; minutes: number; notice: Notice }
  | { does: 'looked'; plan: Plan }
  | { does: 'published'; planId: number; told: Hand['told'] }
  | { does: 'weighed'; weights: Hand['weights']; notice: Notice }
  | { does: 'noticed'; notice: Notice | null };

const awayKey = (person: number, day: number): string => `${person}/${day}`;
/** Days of an absence, as they stand among those on which somebody is away. */
export const awayKeys = ({ person, day, to }: Absence): string[] =>
  Array.from({ length: to - day + 1 }, (_, n) => awayKey(person, day + n));

export function handOf(p: Pick<Hand, 'plan' | 'locked' | 'learners' | 'weights' | 'basedOn'>): Hand {
  return {
    ...p,
    past: [],
    extras: NO_EXTRAS,
    real: new Map(),
    away: new Set(),
    notice: null,
    solving: null,
    bound: null,
    helps: null,
    kept: [],
    told: null,
  };
}

/** Nothing that was said of the plan before holds of another. */
const UNSAID = { bound: null, helps: null, told: null } as const;

/** The plan in hand after something was done with it. Changes nothing it is given. */
export function inHand(hand: Hand, event: HandEvent): Hand {
  switch (event.does) {
    case 'changed': {
      const step: Past = event.absence ? { plan: hand.plan, absence: event.absence } : { plan: hand.plan };
      return {
        ...hand,
        ...UNSAID,
        plan: event.plan,
        past: [...hand.past.slice(1 - MOST_UNDONE), step],
        away: event.absence ? new Set([...hand.away, ...awayKeys(event.absence)]) : hand.away,
        notice: event.notice ?? hand.notice,
      };
    }
    case 'undone': {
      const last = hand.past.at(-1);
      if (!last) return hand;
      const away = new Set(hand.away);
      if (last.absence) for (const key of awayKeys(last.absence)) away.delete(key);
      // A search from the plan that is gone back from has nothing more to say.
      const back = { plan: last.plan, past: hand.past.slice(0, -1), away, solving: null };
      return { ...hand, ...UNSAID, ...back, notice: event.notice };
    }
    case 'searched':
      return {
        ...inHand(hand, { does: 'changed', plan: hand.plan }),
        notice: null,
        solving: { state: 'looking', progress: 0 },
      };
    case 'bettered':
      // A search that was stopped has nothing more to say.
      return hand.solving === null
        ? hand
        : {
            ...hand,
            told: null,
            plan: event.plan,
            solving: event.done ? { state: 'proving' } : { state: 'looking', progress: event.progress },
          };
    case 'bounded':
      return hand.solving === null ? hand : { ...hand, bound: event.bound };
    case 'helped':
      return hand.solving === null ? hand : { ...hand, helps: event.helps };
    case 'stopped':
      return { ...hand, solving: null, notice: event.notice ?? hand.notice };
    case 'locked': {
      const locked = new Set(hand.locked);
      const all = event.jobs.every((i) => locked.has(i));
      for (const i of event.jobs) {
        if (all) locked.delete(i);
        else locked.add(i);
      }
      return { ...hand, locked };
    }
    case 'taught': {
      const learners = new Map(hand.learners);
      if (event.who === null) learners.delete(event.job);
      else learners.set(event.job, event.who);
      return { ...hand, learners };
    }
    case 'kept': {
      const { plan, locked, learners, extras } = hand;
      const name = `Plan ${String.fromCharCode(65 + (hand.kept.length % 26))}`;
      return { ...hand, kept: [...hand.kept, { name, plan: plan.slice(), locked, learners, extras }] };
    }
    case 'took': {
      const { plan, locked, learners, extras } = event.variant;
      return { ...inHand(hand, { does: 'changed', plan: plan.slice() }), locked, learners, extras };
    }
    case 'tried':
      return {
        ...inHand(hand, { does: 'kept' }),
        extras: withHelp(hand.extras, event.help),
        bound: null,
        helps: null,
        notice: event.notice,
      };
    case 'madeSo': {
      const real = new Map(hand.real).set(event.shift, (hand.real.get(event.shift) ?? 0) + event.minutes);
      const minutes = new Map(hand.extras.minutes);
      minutes.delete(event.shift);
      const helps = hand.helps?.filter((h) => !('shift' in h.what && h.what.shift === event.shift)) ?? null;
      return { ...hand, real, extras: { ...hand.extras, minutes }, bound: null, helps, notice: event.notice };
    }
    case 'looked':
      return inHand(inHand(hand, { does: 'kept' }), { does: 'changed', plan: event.plan });
    case 'published':
      return { ...hand, basedOn: event.planId, told: event.told };
    case 'weighed':
      return { ...hand, weights: event.weights, bound: null, notice: event.notice };
    case 'noticed':
      return { ...hand, notice: event.notice };
  }
}

function withHelp(extras: Extras, { what }: Help): Extras {
  const minutes = new Map(extras.minutes);
  const packs = new Map(extras.packs);
  if ('shift' in what) minutes.set(what.shift, (minutes.get(what.shift) ?? 0) + what.minutes);
  else packs.set(what.sku, (packs.get(what.sku) ?? 0) + what.packs);
  return { minutes, packs };
}

/** The problem as it is tried: with extras and without the days somebody was said to be away. */
export function triedProblem(given: PlanProblem, hand: Pick<Hand, 'extras' | 'real' | 'away'>): PlanProblem {
  const more = withExtras(withExtras(given, { ...NO_EXTRAS, minutes: hand.real }), hand.extras);
  if (hand.away.size === 0) return more;
  return {
    ...more,
    shifts: more.shifts.map((s) => (hand.away.has(awayKey(s.person, s.day)) ? { ...s, minutes: 0 } : s)),
  };
}

/** The problem for a search: what is locked stays where it stands now. */
export function heldProblem(tried: PlanProblem, { plan, locked }: Pick<Hand, 'plan' | 'locked'>): PlanProblem {
  return {
    ...tried,
    jobs: tried.jobs.map((j, i) =>
      locked.has(i) ? { ...j, locked: true, published: plan[i] as number } : { ...j, locked: false },
    ),
  };
}
