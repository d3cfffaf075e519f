import type { Family } from '../instruments/build';
import type { CareRule } from './due';

const rule = (calendarDays: number, playHours: number): CareRule => ({
  school: 'whichever-first',
  calendarDays,
  playHours,
  neverOverDays: 365,
});

/**
 * The care rules a new programme starts with: a calendar interval and playing hours, whichever comes first, never
 * longer than a year. Common practice, no source; a programme sets its own.
 */
export const HOUSE_CARE: Record<Family, CareRule> = {
  'steel-acoustic': rule(180, 60),
  'twelve-string': rule(180, 50),
  classical: rule(240, 80),
  electric: rule(150, 50),
  'bass-guitar': rule(300, 120),
  ukulele: rule(300, 80),
  banjo: rule(180, 40),
  mandolin: rule(180, 45),
  violin: rule(300, 150),
  viola: rule(300, 150),
  cello: rule(365, 180),
  'double-bass': rule(365, 200),
};
