import { plural, sayList } from '../count';
import { daysBetween } from '../dates';
import type { JobKind } from '../procedures/types';
import type { Due, StringOn } from '../wear/due';

/** What a due instrument wants: its strings changed, changed with the yearly service, or to be looked at first. */
export const DUE_KINDS = ['change', 'service', 'inspection'] as const;
export type DueKind = (typeof DUE_KINDS)[number];

/** Strings that were on for longer than this are changed with the yearly service. Common practice, no source. */
export const SERVICE_AFTER_DAYS = 330;

export interface DueWork {
  kind: DueKind;
  /** The strings it is of, highest number first; of a look: those that a change after it would be of. */
  numbers: number[];
  /** Whether these are all strings of the instrument. */
  whole: boolean;
}

/**
 * What is to be done on an instrument when it is due. Strings of unknown age, or that are due to be looked at again, are
 * looked at first. Of those that broke or are off only these are changed, where it is known which; otherwise all, and
 * after a year with the service.
 */
export function dueWork(p: {
  due: Pick<Due, 'by' | 'numbers' | 'on' | 'since' | 'inspection'>;
  strings: readonly Pick<StringOn, 'number' | 'state'>[];
}): DueWork {
  const { due } = p;
  const all = p.strings.map((s) => s.number).sort((a, b) => b - a);
  const whole = { numbers: all, whole: true };
  if (due.by === 'unknown-age' || (due.by === 'condition' && !due.inspection)) return { kind: 'inspection', ...whole };
  if (due.by === 'broken') {
    const reported = new Set(due.numbers);
    const gone = new Set(p.strings.filter((s) => s.state !== 'on').map((s) => s.number));
    const named = all.filter((n) => reported.has(n) || gone.has(n));
    if (named.length > 0 && named.length < all.length) return { kind: 'change', numbers: named, whole: false };
  }
  const old = due.since !== null && daysBetween(due.since, due.on) >= SERVICE_AFTER_DAYS;
  return { kind: old ? 'service' : 'change', ...whole };
}

/** What the bench is asked for when this is begun. */
export function benchRequest(work: DueWork): { kind?: JobKind; numbers?: number[] } {
  if (work.kind === 'inspection') return { kind: 'inspection' };
  if (work.kind === 'service') return { kind: 'yearly-service' };
  return work.whole ? {} : { numbers: work.numbers };
}

/** In a few words, such as "first look", "strings 3 and 1", or nothing for a plain full set. */
export function sayDueWork(work: DueWork): string {
  if (work.kind === 'inspection') return 'inspect first';
  if (work.kind === 'service') return 'with the yearly service';
  if (work.whole) return '';
  const numbers = [...work.numbers].sort((a, b) => a - b).map(String);
  return `only ${plural(numbers.length, 'string')} ${sayList(numbers)}`;
}
