import { UTCDate } from '@date-fns/utc';
import { format, parseISO } from 'date-fns';
import { daysIntoWeek, type Manner, mannerNow } from './manner';

/** A calendar day in the programme's time zone, as `YYYY-MM-DD` (ISO 8601). It has no time zone of its own. */
export type LocalDate = string;

// An ISO day parses as midnight UTC, where every day has this length: plain arithmetic is exact here, and lists ask it
// thousands of times.
const DAY_MS = 86_400_000;

// UTCDate keeps day arithmetic away from the time zone of the machine.
const at = (day: LocalDate) => new UTCDate(`${day}T00:00:00Z`);

// A fleet's due dates ask for the same few thousand days again and again, so each is read and written once.
const MOST_KEPT = 50_000;
const numbers = new Map<LocalDate, number>();
const names = new Map<number, LocalDate>();

function kept<K, V>(cache: Map<K, V>, key: K, make: (key: K) => V): V {
  const known = cache.get(key);
  if (known !== undefined) return known;
  if (cache.size >= MOST_KEPT) cache.clear();
  const made = make(key);
  cache.set(key, made);
  return made;
}

/** Days since 1970-01-01. */
const numberOf = (day: LocalDate): number => kept(numbers, day, (d) => Date.parse(d) / DAY_MS);

/**
 * Days that a programme can speak of. Within them ISO days compare as text, and no loop from one to another is long
 * enough to hold anything up.
 */
export const FIRST_DAY: LocalDate = '1900-01-01';
export const LAST_DAY: LocalDate = '2199-12-31';
const FIRST_NUMBER = Date.parse(FIRST_DAY) / DAY_MS;
const LAST_NUMBER = Date.parse(LAST_DAY) / DAY_MS;

/**
 * The day `days` days after `day` (before it when negative).
 * @throws RangeError when that is before FIRST_DAY or after LAST_DAY, or `day` is no day
 */
export function addDays(day: LocalDate, days: number): LocalDate {
  const number = numberOf(day) + days;
  if (!(number >= FIRST_NUMBER && number <= LAST_NUMBER))
    throw new RangeError(`${days} days from ${day} is not between ${FIRST_DAY} and ${LAST_DAY}.`);
  return kept(names, number, (n) => new Date(n * DAY_MS).toISOString().slice(0, 10));
}

/** Whole days from `from` to `to`; negative when `to` is earlier. */
export function daysBetween(from: LocalDate, to: LocalDate): number {
  return numberOf(to) - numberOf(from);
}

/** The day of the week as ISO 8601 counts it: 1 is Monday, 7 Sunday. */
export function weekdayOf(day: LocalDate): number {
  return ((((numberOf(day) + 3) % 7) + 7) % 7) + 1;
}

/** True for a real calendar day written `YYYY-MM-DD`, from FIRST_DAY to LAST_DAY. */
export function isLocalDate(text: string): boolean {
  return (
    /^\d{4}-\d{2}-\d{2}$/.test(text) && text >= FIRST_DAY && text <= LAST_DAY && !Number.isNaN(parseISO(text).getTime())
  );
}

/** The day, moved into the range that a programme can speak of: what others' calendars say may lie outside. */
export const withinRange = (day: LocalDate): LocalDate =>
  /^\d{4}-/.test(day) ? later(FIRST_DAY, earlier(LAST_DAY, day)) : day.startsWith('-') ? FIRST_DAY : LAST_DAY;

export const earlier = (a: LocalDate, b: LocalDate): LocalDate => (a <= b ? a : b);
export const later = (a: LocalDate, b: LocalDate): LocalDate => (a >= b ? a : b);

const said = new Map<string, string>();
const say = (day: LocalDate, as: string): string => kept(said, `${day} ${as}`, () => format(at(day), as));

/** How a day is written: in a year that is clear, with its year, in full, and with its weekday. */
const STYLES: Record<Manner['days'], Record<'short' | 'year' | 'long' | 'longYear' | 'weekday', string>> = {
  'day-first': { short: 'd MMM', year: 'd MMM yyyy', long: 'd MMMM', longYear: 'd MMMM yyyy', weekday: 'EEE d MMM' },
  'month-first': {
    short: 'MMM d',
    year: 'MMM d, yyyy',
    long: 'MMMM d',
    longYear: 'MMMM d, yyyy',
    weekday: 'EEE MMM d',
  },
  iso: {
    short: 'yyyy-MM-dd',
    year: 'yyyy-MM-dd',
    long: 'yyyy-MM-dd',
    longYear: 'yyyy-MM-dd',
    weekday: 'EEE yyyy-MM-dd',
  },
};
/** The pattern of a day with its weekday, for those who write a time behind it. */
export const weekdayStyle = (): string => STYLES[mannerNow().days].weekday;

/** "18 Dec", or "18 Dec 2027" in another year than `today`'s; in the programme's manner. */
export function sayDay(day: LocalDate, today: LocalDate): string {
  const style = STYLES[mannerNow().days];
  return say(day, sameYearOrNear(day, today) ? style.short : style.year);
}

/** "18 December", for headlines. */
export function sayDayLong(day: LocalDate, today: LocalDate): string {
  const style = STYLES[mannerNow().days];
  return say(day, sameYearOrNear(day, today) ? style.long : style.longYear);
}

/** "Fri 18 Dec". */
export function sayWeekday(day: LocalDate): string {
  return say(day, weekdayStyle());
}

/** "Friday". */
export function sayDayOfWeek(day: LocalDate): string {
  return say(day, 'EEEE');
}

/** The first day of the programme's week that a day lies in. */
export const weekOf = (day: LocalDate): LocalDate => addDays(day, -daysIntoWeek(weekdayOf(day)));

// Within nine months a day and month cannot be mistaken for another year's.
const sameYearOrNear = (day: LocalDate, today: LocalDate) => Math.abs(daysBetween(today, day)) < 270;
