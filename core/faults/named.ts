import { type Done, sayDone } from '../work/done';
import { SYMPTOMS } from './symptoms';
import { WRONGS, type WrongId } from './wrongs';

/** What a case is about, as a value: a cause of its complaint, what somebody said was wrong, or what was done. */
export type Named = { of: 'cause'; id: string } | { of: 'said'; id: WrongId } | { of: 'done'; done: Done };

/**
 * What a case is about, in words.
 * @param otherwise what stands where a newer version named something that this one does not know
 */
export function sayNamed(symptom: string, named: Named, otherwise = 'Something else'): string {
  switch (named.of) {
    case 'cause':
      return SYMPTOMS.find((s) => s.id === symptom)?.causes.find((c) => c.id === named.id)?.name ?? otherwise;
    case 'said':
      return WRONGS[named.id]?.name ?? otherwise;
    case 'done':
      return sayDone(named.done);
  }
}
