import { count } from '../count';
import type { CareRule } from './due';
import { sayInterval } from './words';

/** What an interval is set for; the narrowest that is set holds. */
export const INTERVAL_SCOPES = ['family', 'product', 'instrument'] as const;
export type IntervalScope = (typeof INTERVAL_SCOPES)[number];

/** The intervals that are set for one instrument, its strings and its family. */
export type IntervalsSet = { family: CareRule } & Partial<Record<Exclude<IntervalScope, 'family'>, CareRule>>;

/** The interval that holds, and what it was set for. */
export function intervalInForce(set: IntervalsSet): { rule: CareRule; from: IntervalScope } {
  if (set.instrument) return { rule: set.instrument, from: 'instrument' };
  if (set.product) return { rule: set.product, from: 'product' };
  return { rule: set.family, from: 'family' };
}

export const SCHOOL_NAMES: Record<CareRule['school'], string> = {
  'whichever-first': 'whichever comes first',
  calendar: 'days only',
  use: 'hours of playing only',
  condition: 'by inspection',
};

/** An interval as a sentence says it: "after 6 months or 60 hours of playing, never longer than one year". */
export function sayCareRule(rule: CareRule): string {
  const days = sayInterval(rule.calendarDays);
  const hours = `${count(rule.playHours, 'hour')} of playing`;
  const never = `never longer than ${sayInterval(rule.neverOverDays)}`;
  switch (rule.school) {
    case 'whichever-first':
      return `after ${days} or ${hours}, ${never}`;
    case 'calendar':
      return `after ${days}, ${never}`;
    case 'use':
      return `after ${hours}, ${never}`;
    case 'condition':
      return `inspection after ${days}, ${never}`;
  }
}

/** What is wrong with an interval, each a sentence that says what to do; empty when it can be kept. */
export function intervalProblems(rule: CareRule): string[] {
  const why: string[] = [];
  const whole = (n: number) => Number.isInteger(n) && n > 0;
  if (!whole(rule.neverOverDays) || rule.neverOverDays > 3650)
    why.push('“At most, days” takes a whole number from 1 to 3650.');
  if (!whole(rule.calendarDays)) why.push('Enter a whole number of days, at least 1.');
  else if (rule.calendarDays > rule.neverOverDays)
    why.push('The days are more than “At most, days”, so they would never be reached.');
  if (!(rule.playHours >= 1 && rule.playHours <= 10_000)) why.push('Enter between 1 and 10,000 hours of playing.');
  return why;
}
