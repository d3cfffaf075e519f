import type { LocalDate } from '../dates';
import { daysBetween } from '../dates';
import type { CareRule, UsePeriod } from './due';
import { playHours } from './due';

export const CLIMATES = ['even', 'dry', 'damp', 'sea-air'] as const;
export type Climate = (typeof CLIMATES)[number];
export const PLAYERS = ['easy', 'average', 'hard'] as const;
export type Player = (typeof PLAYERS)[number];

/** What an instrument's strings are exposed to, beside time and playing. */
export interface Exposure {
  climate: Climate;
  /** How hard its players' hands are on strings: sweat that blackens a set in weeks counts as hard. */
  player: Player;
  coated: boolean;
}

export const CLIMATE_NAMES: Record<Climate, string> = {
  even: 'steady: a heated room',
  dry: 'dry in cold weather',
  damp: 'damp',
  'sea-air': 'sea air',
};

export const PLAYER_NAMES: Record<Player, string> = {
  easy: 'light on strings',
  average: 'average',
  hard: 'hard on strings',
};

// Metal corrodes by damp and salt also in its case; dry air does not wear strings, it moves wood and pegs.
const CLIMATE_WEAR: Record<Climate, number> = { even: 1, dry: 1, damp: 1.3, 'sea-air': 1.5 };
const PLAYER_WEAR: Record<Player, number> = { easy: 0.8, average: 1, hard: 1.6 };
const COATING_WEAR = 0.5;

/**
 * How much faster than usual strings wear: per hour of playing and per day of hanging there. 1 is usual. Common
 * practice, no source; a programme's own records say better.
 */
export function wearFactors(e: Exposure): { perHour: number; perDay: number } {
  const coating = e.coated ? COATING_WEAR : 1;
  return {
    perHour: PLAYER_WEAR[e.player] * CLIMATE_WEAR[e.climate] * coating,
    perDay: CLIMATE_WEAR[e.climate] * coating,
  };
}

/**
 * The house rule as it applies under an exposure: fewer hours and days where strings wear faster. The never-longer
 * limit stays, since it is also the day on which the board is cleaned and the hardware looked at.
 */
export function exposedRule(rule: CareRule, e: Exposure): CareRule {
  const { perHour, perDay } = wearFactors(e);
  return {
    ...rule,
    playHours: Math.max(1, Math.round(rule.playHours / perHour)),
    calendarDays: Math.min(rule.neverOverDays, Math.max(1, Math.round(rule.calendarDays / perDay))),
  };
}

/**
 * Life used, 0 new to 1 spent, on a day: playing and time each add up linearly over periods of different wear
 * (Palmgren–Miner), and whichever is further decides.
 */
export function lifeUsed(p: { rule: CareRule; use: readonly UsePeriod[]; fittedOn: LocalDate; today: LocalDate }): {
  byUse: number;
  byCalendar: number;
  used: number;
} {
  const byUse = playHours(p.use, p.fittedOn, p.today) / p.rule.playHours;
  const byCalendar = Math.max(0, daysBetween(p.fittedOn, p.today)) / p.rule.calendarDays;
  const counted = {
    calendar: byCalendar,
    use: byUse,
    condition: byCalendar,
    'whichever-first': Math.max(byUse, byCalendar),
  };
  return { byUse, byCalendar, used: counted[p.rule.school] };
}
