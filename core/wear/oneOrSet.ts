export interface OneOrSet {
  change: 'one' | 'set';
  reasons: string[];
}

/** From here on the rest of a set sounds too different from a new string, and breaks next. Common practice, no source. */
const REST_IS_OLD = 0.6;
const REST_IS_YOUNG = 0.3;

/**
 * One string broke: only that one, or the whole set? Compares the age of the rest with its expected life, whether a
 * matching single exists, what mismatch of tone the player will bear, and what is due soon anyway.
 */
export function oneOrSet(p: {
  /** Life used by the rest of the set, 0 new to 1 spent. */
  restUsed: number;
  /** A string of the same product is on the shelf. */
  matchingSingle: boolean;
  /** Someone will hear a bright string beside dull ones: a concert, an examination, a recording. */
  mismatchMatters: boolean;
  /** Days until the whole set is due; null when nothing is planned. */
  dueInDays: number | null;
  /** Days to a concert, if one is near; null when none is. */
  concertInDays: number | null;
  settlingDays: number;
}): OneOrSet {
  const used = Math.round(Math.min(1.5, Math.max(0, p.restUsed)) * 100);
  const set: string[] = [];
  const one: string[] = [];
  if (p.restUsed >= REST_IS_OLD) set.push(`the other strings have used ${used} % of their life`);
  else if (p.restUsed <= REST_IS_YOUNG) one.push(`the other strings have used only ${used} % of their life`);
  if (!p.matchingSingle) set.push('no matching single in stock');
  if (p.mismatchMatters && p.restUsed > REST_IS_YOUNG) set.push('a bright string beside dull ones would be heard');
  if (p.dueInDays !== null && p.dueInDays <= 21)
    set.push(`the set is due anyway (days left: ${Math.max(0, p.dueInDays)})`);
  // No time left for a set to settle weighs more than anything else: one string settles sooner and can be nursed.
  if (p.concertInDays !== null && p.concertInDays <= p.settlingDays) {
    return {
      change: p.matchingSingle ? 'one' : 'set',
      reasons: [
        `days to the concert: ${p.concertInDays}; a full set needs ${p.settlingDays} to settle`,
        ...(p.matchingSingle ? [] : ['no matching single in stock: fit the set and retune often']),
      ],
    };
  }
  if (set.length > one.length) return { change: 'set', reasons: set };
  return {
    change: 'one',
    reasons: one.length
      ? one
      : [`the other strings have used ${used} % of their life, and a matching single is in stock`],
  };
}
