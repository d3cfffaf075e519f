import type { GivenAnswer } from './gate';
import type { Step } from './types';

export type StringProgress = 'old' | 'off' | 'on';

/**
 * How far each string is, by the answers given: off once it was taken out of its tail end, on once it is near pitch.
 */
export function progressOf(
  numbers: readonly number[],
  steps: readonly Pick<Step, 'key' | 'phase' | 'positions'>[],
  answers: readonly GivenAnswer[],
): Map<number, StringProgress> {
  const done = new Set(answers.filter((a) => a.outcome === 'done' || a.outcome === 'skipped').map((a) => a.step));
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
