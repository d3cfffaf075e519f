import type { GivenAnswer } from './gate';
import { MISTAKES, type MistakeId } from './reference';
import type { Step } from './types';

/** A mistake as an answer keeps it: which, and on which string where the step works on several. */
export const troubleNote = (id: MistakeId, number: number | null): string => (number === null ? id : `${id}@${number}`);

export interface Trouble {
  id: MistakeId;
  number: number | null;
}

/** Reads an answer's note back; null where it is no mistake known here. */
export function troubleOf(answer: GivenAnswer, step: Pick<Step, 'positions'> | undefined): Trouble | null {
  if (answer.outcome !== 'trouble') return null;
  const [id, number] = answer.note.split('@');
  if (!id || !(id in MISTAKES)) return null;
  const only = step?.positions.length === 1 ? (step.positions[0] as number) : null;
  return { id: id as MistakeId, number: number ? Number(number) : only };
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
