import { CORE } from '../parts/cores';
import type { CoreMaterial } from '../strings/materials';

/** When a string that went on at `fittedAt` has settled, both in milliseconds since 1970 UTC, by the careful figure. */
export function settledAt(s: { core: CoreMaterial; fittedAt: number }): number {
  return s.fittedAt + CORE[s.core].settlesHours.careful * 3_600_000;
}

/** Days to keep free before a concert so that a set with these cores has settled (at least one). */
export function settlingDays(cores: readonly CoreMaterial[]): number {
  return Math.max(1, ...cores.map((core) => Math.ceil(CORE[core].settlesHours.careful / 24)));
}

export const VISIT_KINDS = ['retune', 'bridge-check', 'proper-look'] as const;
export type VisitKind = (typeof VISIT_KINDS)[number];

/** What a visit is called, and what is said when it is done. */
export const VISIT_WORDS: Record<VisitKind, { short: string; what: (day: number) => string; done: string }> = {
  retune: { short: 'retune', what: (day) => `retune, day ${day}`, done: 'Retuned' },
  'bridge-check': { short: 'bridge check', what: () => 'bridge check within 24 hours', done: 'Bridge upright' },
  'proper-look': {
    short: 'stretch and trim',
    what: () => 'stretch, trim and check in full',
    done: 'Full check done',
  },
};

/** Days after a change on which it is retuned. Common practice, no source. */
export const RETUNE_DAYS: readonly number[] = [1, 3];
/** A visit is of use for so many days after its own, where nobody is there on it. */
export const VISIT_GRACE_DAYS = 2;
/** Minutes of a visit of each kind. Common practice, no source. */
export const VISIT_MINUTES: Record<VisitKind, number> = { retune: 5, 'bridge-check': 5, 'proper-look': 12 };

/**
 * The visits a change brings: a retune on each of its days, a second look at a floating bridge within 24 hours,
 * because new strings pull it towards the nut, and after a fast path what it left for later.
 */
export function visitsAfterChange(
  bridge: 'fixed' | 'floating',
  fastPath = false,
): { kind: VisitKind; afterHours: number; day: number }[] {
  const retunes = RETUNE_DAYS.map((day) => ({ kind: 'retune' as const, afterHours: day * 24, day }));
  return [
    ...(fastPath ? [{ kind: 'proper-look' as const, afterHours: 24, day: 1 }] : []),
    ...(bridge === 'floating' ? [{ kind: 'bridge-check' as const, afterHours: 24, day: 1 }] : []),
    ...retunes,
  ];
}
