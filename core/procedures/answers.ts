import { MISTAKES, type MistakeId } from './mistakes';
import type { Step } from './types';

/** What somebody at the bench said to a step, by outcome. */
export type Said =
  /** `choice`: the place of the answer chosen; `passed`: why a gate that was not open was passed all the same. */
  | { outcome: 'done'; choice?: number; passed?: string }
  | { outcome: 'skipped'; because: string }
  /** What went wrong, and on which string where the step works on several. */
  | { outcome: 'trouble'; mistake: MistakeId; number?: number }
  /** It moves nothing on: what a stretch cost one string, in cents flat, or what was written down. */
  | { outcome: 'measured'; drop: { number: number; cents: number } }
  | { outcome: 'measured'; noted: { asked: string; said: string } };

export type GivenAnswer = Said & { step: string };

/** Whether an answer moves the bench on. */
export const movesOn = (a: Pick<Said, 'outcome'>): boolean => a.outcome === 'done' || a.outcome === 'skipped';

/** The key of one of the answers that one press gave to several steps, the first of them its own. */
export const answerKey = (key: string, place: number): string => (place === 0 ? key : `${key}/${place}`);

export interface Trouble {
  id: MistakeId;
  number: number | null;
}

/** What went wrong and on which string; the only string of its step where none is named. */
export function troubleOf(answer: GivenAnswer, step: Pick<Step, 'positions'> | undefined): Trouble | null {
  if (answer.outcome !== 'trouble') return null;
  const only = step?.positions.length === 1 ? (step.positions[0] as number) : null;
  return { id: answer.mistake, number: answer.number ?? only };
}

/** Positions at which a string was lost on the way, once for each time. */
export function lostAt(answers: readonly GivenAnswer[], steps: readonly Pick<Step, 'key' | 'positions'>[]): number[] {
  return answers.flatMap((a) => {
    const trouble = troubleOf(
      a,
      steps.find((s) => s.key === a.step),
    );
    return trouble?.number != null && MISTAKES[trouble.id].stringLost ? [trouble.number] : [];
  });
}

/** What each stretch cost by string, in cents flat, the first stretch first. */
export function dropsOf(answers: readonly GivenAnswer[]): Map<number, number[]> {
  const drops = new Map<number, number[]>();
  for (const a of answers)
    if (a.outcome === 'measured' && 'drop' in a)
      drops.set(a.drop.number, [...(drops.get(a.drop.number) ?? []), a.drop.cents]);
  return drops;
}

/** What was written down before it came off, the latest of each, by what was asked. */
export function notedIn(answers: readonly GivenAnswer[]): Map<string, string> {
  const found = new Map<string, string>();
  for (const a of answers) if (a.outcome === 'measured' && 'noted' in a) found.set(a.noted.asked, a.noted.said);
  return found;
}
