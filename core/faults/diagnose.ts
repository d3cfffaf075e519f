import type { Build } from '../instruments/build';
import { SYMPTOMS } from './symptoms';
import type { Cause, FaultFacts, NextStep, Symptom } from './types';

/** The complaints that can be made of a build. */
export const symptomsFor = (build: Build): Symptom[] =>
  SYMPTOMS.filter((s) => (s.when?.(build) ?? true) && s.causes.length > 0);

export interface RankedCause {
  id: string;
  name: string;
  /** Of 1, among the causes listed: how likely it is by what is known. */
  share: number;
  /** What is known that speaks for it. */
  because: string[];
  look: string;
  normal: string;
  next: NextStep;
}

/** Below this share a cause is not worth a look. */
const WORTH_A_LOOK = 0.03;

/**
 * The likely causes of a symptom on this instrument, the first to look at first: each cause's usual share is multiplied
 * by what every known fact says for or against it, and the products are set in proportion. Ratios are common practice,
 * no source; what is not known changes nothing.
 * @throws RangeError for a symptom that does not exist or cannot happen on this build
 */
export function diagnose(symptomId: string, facts: FaultFacts): RankedCause[] {
  const symptom = symptomsFor(facts.build).find((s) => s.id === symptomId);
  if (!symptom) throw new RangeError('This fault cannot happen on this instrument. Choose one from the list.');
  const weighed = symptom.causes.map((cause: Cause) => {
    const parts = cause.weigh(facts);
    return {
      cause,
      weight: parts.reduce((product, p) => product * p.factor, 1),
      because: parts.flatMap((p) => (p.because && p.factor > 1 ? [p.because] : [])),
    };
  });
  const total = weighed.reduce((sum, w) => sum + w.weight, 0);
  return weighed
    .map(({ cause, weight, because }) => ({
      id: cause.id,
      name: cause.name,
      share: total > 0 ? weight / total : 0,
      because,
      look: typeof cause.look === 'string' ? cause.look : cause.look(facts.build),
      normal: cause.normal,
      next: cause.next(facts),
    }))
    .filter((c) => c.share >= WORTH_A_LOOK)
    .sort((a, b) => b.share - a.share);
}
