import { type GivenAnswer, movesOn } from './answers';
import type { Step } from './types';

export type StringProgress = 'old' | 'off' | 'on';

/** Steps that are done or were passed over, and have not gone wrong since. */
export function tickedSteps(
  answers: readonly GivenAnswer[],
  steps: readonly Pick<Step, 'key' | 'positions'>[],
): Set<string> {
  const ticked = new Set<string>();
  for (const a of answers) {
    if (movesOn(a)) ticked.add(a.step);
    // Each string has a step of its own, so the others stay done.
    else if (a.outcome === 'trouble') ticked.delete(a.step);
  }
  return new Set([...ticked].filter((key) => steps.some((s) => s.key === key)));
}

/**
 * How far each string is, by the answers given: off once it was taken out of its tail end, on once it is near pitch.
 */
export function progressOf(
  numbers: readonly number[],
  steps: readonly Pick<Step, 'key' | 'phase' | 'positions'>[],
  answers: readonly Pick<GivenAnswer, 'step' | 'outcome'>[],
): Map<number, StringProgress> {
  const done = new Set(answers.filter(movesOn).map((a) => a.step));
  const result = new Map<number, StringProgress>(numbers.map((n) => [n, 'old']));
  for (const s of steps) {
    if (!done.has(s.key)) continue;
    for (const n of s.positions) {
      if (s.phase === 'remove') result.set(n, 'off');
      if (s.phase === 'near-pitch') result.set(n, 'on');
    }
  }
  return result;
}
