import type { REQUEST_KINDS } from '../../contract/choices';
import { count } from '../../core/count';
import { daysBetween, type LocalDate, sayDay } from '../../core/dates';
import { sayInstant } from '../../core/instants';
import { sayMoney } from '../../core/manner';

export { sayInstant };

/** "2 h 10 min". */
export function sayMinutes(minutes: number): string {
  const rounded = minutes < 20 ? Math.round(minutes) : Math.round(minutes / 5) * 5;
  const hours = Math.floor(rounded / 60);
  return hours ? `${hours} h${rounded % 60 ? ` ${rounded % 60} min` : ''}` : `${rounded} min`;
}

/** A stretch of time as people say it: "18 hours", "3 days". */
export function sayDays(days: number): string {
  const [n, unit] = days < 2 ? [Math.max(1, Math.round(days * 24)), 'hour'] : [Math.round(days), 'day'];
  return count(n, unit);
}

export interface Chip {
  text: string;
  kind: 'late' | 'soon' | 'settling' | 'ok' | 'plain';
}

/** The state of an instrument in one word or date, for its chip. */
export function dueChip(
  row: { dueOn: LocalDate; dueBy: string; broken: boolean; readyAt: number | null },
  at: { today: LocalDate; now: number; horizon: LocalDate; timeZone: string },
): Chip {
  if (row.broken) return { text: 'broken', kind: 'late' };
  if (row.readyAt) return { text: `ready ${sayInstant(row.readyAt, at.now, at.timeZone)}`, kind: 'settling' };
  const days = daysBetween(at.today, row.dueOn);
  if (row.dueBy === 'concert' && days >= 0) return { text: `by ${sayDay(row.dueOn, at.today)}`, kind: 'settling' };
  if (row.dueBy === 'unknown-age') return { text: 'inspect first', kind: 'soon' };
  if (days < 0) return { text: `${count(-days, 'day')} late`, kind: 'late' };
  if (days === 0) return { text: 'today', kind: 'late' };
  return { text: sayDay(row.dueOn, at.today), kind: row.dueOn <= at.horizon ? 'soon' : 'plain' };
}

export { sayMoney as money };

/** Work that is asked for beside what falls due. */
export const ASKED_FOR: Record<(typeof REQUEST_KINDS)[number], string> = {
  inspection: 'inspection',
  service: 'yearly service',
  refit: 'strings off and back on',
};

/** What whoever had a job of today's plan said of it. */
export const ASIDE_WORDS: Record<'' | 'no-room' | 'elsewhere', string> = {
  '': '',
  'no-room': 'no time today',
  elsewhere: 'done elsewhere',
};
