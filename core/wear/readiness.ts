import type { StripString } from './strip';

/** Whether an instrument can be handed to a player. */
export type Readiness =
  | { state: 'ready' }
  | { state: 'settling'; at: number }
  | { state: 'broken' | 'reported' | 'referred' | 'on-bench' | 'unknown' | 'slipping' };

/**
 * What may be said of an instrument on its label and to its player. Ready is said only of strings that are all on, of a
 * known age, settled, and that nobody has complained of.
 *
 * @param p.settledAt when the last string holds; null when nothing settles
 */
export function readinessOf(p: {
  strip: readonly Pick<StripString, 'state'>[];
  /** Open reports, whatever they are about. */
  reports: number;
  /** Cases that are with somebody qualified. */
  referrals: number;
  jobOpen: boolean;
  /** Some string's age is not known. */
  agesKnown: boolean;
  settledAt: number | null;
  /** A string falls more from visit to visit. */
  slips: boolean;
  now: number;
}): Readiness {
  if (p.referrals > 0) return { state: 'referred' };
  if (p.strip.some((s) => s.state === 'broken' || s.state === 'missing')) return { state: 'broken' };
  if (p.reports > 0) return { state: 'reported' };
  if (p.jobOpen) return { state: 'on-bench' };
  if (p.slips) return { state: 'slipping' };
  if (!p.agesKnown) return { state: 'unknown' };
  if (p.settledAt !== null && p.settledAt > p.now) return { state: 'settling', at: p.settledAt };
  return { state: 'ready' };
}

/** Whether nothing on record keeps a player from it: strings of an unknown age are played, only never called ready. */
export const isPlayable = (r: Readiness): boolean => r.state === 'ready' || r.state === 'unknown';

/**
 * Readiness in words for a label.
 * @param sayInstant an instant as people here say it
 */
export function sayReadiness(r: Readiness, sayInstant: (at: number) => string): string {
  switch (r.state) {
    case 'settling':
      return `Ready by ${sayInstant(r.at)}`;
    case 'ready':
      return 'Settled: ready to play';
    case 'broken':
      return 'Broken string: not ready';
    case 'reported':
      return 'Fault reported: not ready';
    case 'referred':
      return 'Needs a repairer: not ready';
    case 'slipping':
      return 'A string is slipping: not ready';
    case 'on-bench':
      return 'On the bench: not ready';
    case 'unknown':
      return 'Not inspected yet';
  }
}
