import { capital, lowerFirst } from '../sentence';
import { adviseStretch } from '../settling/stretch';
import type { CoreMaterial } from '../strings/materials';
import { type GivenAnswer, movesOn } from './answers';
import type { Step } from './types';

/** What a gate has to know of the strings beside the answers. */
export interface GateFacts {
  steps: readonly Pick<Step, 'key' | 'id' | 'positions' | 'gate'>[];
  /** What has been answered so far, the latest last. */
  answers: readonly GivenAnswer[];
  /** Drops of each stretch, by string, in cents flat. */
  drops: ReadonlyMap<number, readonly number[]>;
  strings: readonly { number: number; core: CoreMaterial; wound: boolean }[];
  /** Rounds of stretching the method asks for. */
  rounds: number;
}

/** What has to be done before a step that cannot be undone, by its id. */
const BEFORE: Readonly<Record<string, { ids: readonly string[]; says: string }>> = {
  'trim.ends': { ids: ['stretch.rounds'], says: 'not stretched and settled yet' },
  'trim.tails': { ids: ['stretch.rounds'], says: 'not stretched and settled yet' },
  'prepare.halve': { ids: ['near-pitch.string'], says: 'not near pitch yet' },
  'near-pitch.trim': { ids: ['near-pitch.string'], says: 'not near pitch yet' },
  'fit-post.cut': { ids: ['fit-tail.string'], says: 'its tail end is not seated yet' },
};

/**
 * Why a gated step is not open yet, each a sentence; empty when it is. What was skipped was not done, whatever the
 * reason, and a string whose last pull still cost much is not settled.
 */
export function gateProblems(key: string, f: GateFacts): string[] {
  const step = f.steps.find((s) => s.key === key);
  const before = step?.gate ? BEFORE[step.id] : undefined;
  if (!step || !before) return [];
  const last = (k: string) => f.answers.findLast((a) => a.step === k && movesOn(a));
  const problems: string[] = [];
  for (const needed of f.steps.filter((s) => before.ids.includes(s.id))) {
    // A step for one string waits for that string; one for the instrument for all.
    if (step.positions.length && needed.positions.length && !needed.positions.some((n) => step.positions.includes(n)))
      continue;
    const answer = last(needed.key);
    if (answer?.outcome === 'done') continue;
    problems.push(
      answer?.outcome === 'skipped'
        ? `Skipped (${lowerFirst(answer.because)}), so ${before.says}.`
        : `${capital(before.says)}.`,
    );
  }
  if (before.ids.includes('stretch.rounds'))
    for (const string of f.strings) {
      const drops = f.drops.get(string.number);
      if (!drops?.length) continue;
      const advice = adviseStretch(string, drops, f.rounds);
      if (advice.again || advice.kind === 'slipping' || advice.kind === 'too-hard')
        problems.push(`String ${string.number}: ${advice.says}`);
    }
  return problems;
}

/** Reasons to pass a gate all the same; the record keeps the one given. */
export const GATE_REASONS = [
  'It holds, judged by ear and hand',
  'The ends would be in the way before the next lesson',
  'A supervisor has agreed',
] as const;
