import { TZDate, tzOffset } from '@date-fns/tz';
import type { LocalDate } from '../core/dates';

/**
 * The time as milliseconds since 1970 UTC. ARVICK_NOW (an ISO instant) freezes it, so that tests and pictures of the
 * demo always see the same day.
 */
export function now(): number {
  const frozen = process.env.ARVICK_NOW;
  if (!frozen) return Date.now();
  const at = Date.parse(frozen);
  if (Number.isNaN(at))
    throw new RangeError(`ARVICK_NOW is “${frozen}”, which is not an ISO instant such as 2026-11-24T09:00:00Z.`);
  return at;
}

/** The calendar day of an instant in a time zone. */
export function localDate(at: number, timeZone: string): LocalDate {
  // The wall clock there, read as if it were UTC: lists ask this thousands of times.
  return new Date(at + tzOffset(timeZone, new Date(at)) * 60_000).toISOString().slice(0, 10);
}

/**
 * So many hours later, whole days by the clock on the wall there: what is to be done a day after three in the afternoon is
 * to be done at three, also when the clocks change in the night between.
 */
export function laterByClock(at: number, hours: number, timeZone: string): number {
  const days = Math.floor(hours / 24);
  const day = new TZDate(at, timeZone);
  day.setDate(day.getDate() + days);
  return day.getTime() + (hours - 24 * days) * 3_600_000;
}

/** The instant of a local day and hour in a time zone. */
export const instantOf = (day: LocalDate, hour: number, timeZone: string): number => timeOf(day, hour * 60, timeZone);

// A plan asks for the same few minutes of the same days again and again.
const MOST_KEPT = 20_000;
const times = new Map<string, number>();

/** The instant at which the clock on the wall there shows a minute of a local day. */
export function timeOf(day: LocalDate, minute: number, timeZone: string): number {
  const asked = `${day} ${minute} ${timeZone}`;
  const known = times.get(asked);
  if (known !== undefined) return known;
  const [year = 0, month = 1, date = 1] = day.split('-').map(Number);
  const at = new TZDate(year, month - 1, date, 0, minute, 0, timeZone).getTime();
  if (times.size >= MOST_KEPT) times.clear();
  times.set(asked, at);
  return at;
}
