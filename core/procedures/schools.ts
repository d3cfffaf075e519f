import type { Build } from '../instruments/build';
import { type Load, loadDuring, refuseLoad } from '../load/during';
import { CHOICES } from './choices';
import { composeProcedure, pullsOf } from './compose';
import { adaptMethod, mayBePairs, workingOrder } from './method';
import type { Method, Procedure, StringToFit } from './types';

export interface WindRow {
  value: Method['winds'];
  name: string;
  does: string;
  /** Minutes of the whole change, and of taking these strings off next time. */
  minutes: number;
  removalMinutes: number;
  /** How the end is held. */
  hold: 'clamped' | 'friction' | 'locked';
  isHouse: boolean;
}

const HOLD: Record<Method['winds'], WindRow['hold']> = {
  'one-over': 'clamped',
  'spiral-down': 'friction',
  'self-lock': 'locked',
};

const minutesOf = (p: Procedure, phases: readonly string[]) =>
  p.steps.reduce((sum, s) => sum + (phases.includes(s.phase) ? s.minutes : 0), 0);

/** The schools of winding on this instrument; only the one it is wound by where its parts leave no choice. */
export function compareWinds(build: Build, method: Method, strings: readonly StringToFit[]): WindRow[] {
  const house = adaptMethod(build, method, 'full-set').method.winds;
  return CHOICES.winds.flatMap((choice): WindRow[] => {
    const trial = { ...method, winds: choice.value, windsPlain: null };
    if (adaptMethod(build, trial, 'full-set').method.winds !== choice.value) return [];
    const now = composeProcedure(build, trial, strings);
    const next = composeProcedure(build, trial, strings, {
      last: { winds: choice.value, leaveMm: method.trim.leaveMm },
    });
    if (!('procedure' in now && 'procedure' in next)) return [];
    return [
      {
        ...choice,
        minutes: now.procedure.minutes,
        removalMinutes: minutesOf(next.procedure, ['slacken', 'remove']),
        hold: HOLD[choice.value],
        isHouse: choice.value === house,
      },
    ];
  });
}

export interface OrderRow {
  atATime: Method['atATime'];
  name: string;
  does: string;
  load: Load;
  minutes: number | null;
  /** Why it must not be done here; null when it may. */
  refused: string | null;
  isHouse: boolean;
}

/**
 * How many strings at a time, with the pull that stays on the instrument on the way, in the house's order.
 */
export function compareLoads(build: Build, method: Method, strings: readonly StringToFit[]): OrderRow[] {
  const byNumber = new Map(strings.map((s) => [s.number, s]));
  const changed = build.positions.filter((p) => byNumber.has(p.number));
  const house = adaptMethod(build, method, 'full-set').method;
  const order = workingOrder(build, changed, house.order).map((p) => p.number);
  const pulls = pullsOf(build, house, byNumber);
  return CHOICES.atATime.map((choice): OrderRow => {
    const size = choice.value === 'all' ? order.length : choice.value;
    const groups: number[][] = [];
    for (let i = 0; i < order.length; i += size) groups.push(order.slice(i, i + size));
    const load = loadDuring(build.positions, pulls, groups);
    const refused = refuseLoad(build, load);
    const composed = refused ? null : composeProcedure(build, { ...method, atATime: choice.value }, strings);
    return {
      atATime: choice.value,
      name: choice.name,
      does: choice.does,
      load,
      minutes: composed && 'procedure' in composed ? composed.procedure.minutes : null,
      refused:
        refused ??
        (build.bridge === 'floating' && choice.value !== 1 && !mayBePairs(build, { atATime: choice.value })
          ? 'Only string tension holds this bridge: one at a time.'
          : null),
      isHouse: choice.value === house.atATime,
    };
  });
}
