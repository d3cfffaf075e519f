import { count, sayList } from '../count';
import { daysBetween, type LocalDate, sayDay } from '../dates';
import type { CareRule, Due } from './due';

/** What the words need beside the due date itself. */
export interface DueFacts {
  today: LocalDate;
  rule: CareRule;
  /** Hours played since `due.since`. */
  hoursUsed: number;
  /** "B3 (string 2)" for a position. */
  nameOf: (number: number) => string;
}

/** A length of days as one says it: "6 months", "2 years". */
export const sayInterval = (days: number): string => {
  if (days === 365 || days === 366) return 'one year';
  if (days % 365 === 0) return count(days / 365, 'year');
  if (days >= 60) return count(Math.round(days / 30.4), 'month');
  if (days % 7 === 0) return count(days / 7, 'week');
  return count(days, 'day');
};

const sayStrings = (due: Due, nameOf: (n: number) => string): string => sayList(due.numbers.map(nameOf));

/** How old strings are: "7 months", "12 days". */
export function sayAge(since: LocalDate, today: LocalDate): string {
  const days = daysBetween(since, today);
  if (days <= 0) return 'new today';
  if (days === 1) return '1 day';
  if (days < 60) return count(days, 'day');
  if (days < 700) return count(Math.round(days / 30.4), 'month');
  return `${(days / 365).toFixed(1)} years`;
}

const sayDays = (n: number): string => count(n, 'day');

/** The reason in a few words, for a row: "96 of 80 play hours", "concert less 3 days settling". */
export function shortReason(due: Due, f: DueFacts): string {
  switch (due.by) {
    case 'use':
      return `${Math.round(f.hoursUsed)} h played, limit ${f.rule.playHours}`;
    case 'calendar':
      return `after ${sayInterval(f.rule.calendarDays)}`;
    case 'limit':
      return `after ${sayInterval(f.rule.neverOverDays)}, the most allowed`;
    case 'broken':
      return due.numbers.length ? `${sayStrings(due, f.nameOf)} broken` : 'string broken';
    case 'report':
      return {
        dull: 'sounds dull',
        'will-not-hold': 'will not stay in tune',
        slack: 'found slack',
        broken: '',
        other: 'reported',
      }[due.report?.kind ?? 'other'];
    case 'condition':
      return due.inspection?.because ?? 'inspection due';
    case 'unknown-age':
      return 'age unknown';
    case 'concert':
      return `${sayDays(due.concert?.settlingDays ?? 0)} before a concert`;
  }
}

/** The reason as a sentence with what the other schools would say: "61 of 80 play hours used; the calendar alone would say 3 March." */
export function longReason(due: Due, f: DueFacts): string {
  const day = (d: LocalDate | null) => (d ? sayDay(d, f.today) : 'never');
  const calendarAlone = due.calendarOn ? `by the calendar it would be due ${day(due.calendarOn)}` : null;
  const useAlone = due.useOn ? `by hours played it would be due ${day(due.useOn)}` : 'no playing is planned';
  const sentence = (...parts: (string | null)[]) => `${parts.filter(Boolean).join('; ')}.`;
  switch (due.by) {
    case 'use':
      return sentence(`${Math.round(f.hoursUsed)} of ${count(f.rule.playHours, 'hour')} played`, calendarAlone);
    case 'calendar':
      return sentence(
        `Strings stay on for ${sayInterval(f.rule.calendarDays)}`,
        `${Math.round(f.hoursUsed)} of ${count(f.rule.playHours, 'hour')} played`,
        useAlone,
      );
    case 'limit':
      return sentence(`Strings stay on for ${sayInterval(f.rule.neverOverDays)} at most`, useAlone);
    case 'broken': {
      const age = due.since ? `age of the others: ${sayAge(due.since, f.today)}` : 'the age of the others is unknown';
      return sentence(due.numbers.length ? `${sayStrings(due, f.nameOf)} broken` : 'A string is broken', age);
    }
    case 'report':
      return sentence(
        `Reported ${day(due.on)}: ${shortReason(due, f)}`,
        due.since ? `age of the strings: ${sayAge(due.since, f.today)}` : null,
      );
    case 'condition':
      return due.inspection
        ? sentence(
            `Inspected ${day(due.inspection.on)}: ${due.inspection.because}; condition ${due.inspection.score} out of 100`,
            calendarAlone,
          )
        : 'Changed by condition: inspect it to set a date.';
    case 'unknown-age':
      return 'The inspection shows how soon they need changing; dates run from the next change.';
    case 'concert':
      return sentence(
        `${due.concert?.name} on ${day(due.concert?.on ?? null)}: change ${sayDays(due.concert?.settlingDays ?? 0)} before, so the strings settle`,
        `otherwise due ${day(due.concert?.wouldBeOn ?? null)}`,
      );
  }
}
