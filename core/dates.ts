import { daysIntoWeek, type Manner, mannerNow } from './manner';

/** A calendar day in the programme's time zone, as `YYYY-MM-DD` (ISO 8601). It has no time zone of its own. */
export type LocalDate = string;

/**
 * Whether dates can be computed in a zone of this name. Lists of zones leave out names that are other spellings of one.
 * @example `isTimeZone('Atlantic/Faroe')` and `isTimeZone('Atlantic/Faeroe')` are true, `isTimeZone('+01:00')` is false
 */
export function isTimeZone(name: string): boolean {
  try {
    return /^[A-Za-z]/.test(name) && Boolean(new Intl.DateTimeFormat('en', { timeZone: name }));
  } catch {
    return false;
  }
}

// An ISO day parses as midnight UTC, where every day has this length: plain arithmetic is exact here, and lists ask it
// thousands of times.
const DAY_MS = 86_400_000;

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
  if (!/^\d{4}-\d{2}-\d{2}$/.test(text) || text < FIRST_DAY || text > LAST_DAY) return false;
  const at = Date.parse(text);
  // What no month has, as the 30th of February, is read as a day of the next one, or not at all.
  return Number.isFinite(at) && new Date(at).toISOString().startsWith(text);
}

/** The day, moved into the range that a programme can speak of: what others' calendars say may lie outside. */
export const withinRange = (day: LocalDate): LocalDate =>
  /^\d{4}-/.test(day) ? later(FIRST_DAY, earlier(LAST_DAY, day)) : day.startsWith('-') ? FIRST_DAY : LAST_DAY;

export const earlier = (a: LocalDate, b: LocalDate): LocalDate => (a <= b ? a : b);
export const later = (a: LocalDate, b: LocalDate): LocalDate => (a >= b ? a : b);

/** A day as names and numbers: "Fri", "Friday", 18, "Dec", "December", "2026-12-18". */
interface DayParts {
  weekday: string;
  weekdayLong: string;
  day: string;
  month: string;
  monthLong: string;
  year: string;
  iso: LocalDate;
}

// A day has no time zone; said in UTC, where it was read, it stays the same day on every machine.
const inWords = (style: 'short' | 'long') =>
  new Intl.DateTimeFormat('en-US', { timeZone: 'UTC', weekday: style, day: 'numeric', month: style, year: 'numeric' });
const SHORT = inWords('short');
const LONG = inWords('long');
const pick = (parts: Intl.DateTimeFormatPart[], type: Intl.DateTimeFormatPartTypes): string =>
  parts.find((p) => p.type === type)?.value ?? '';

const parted = new Map<LocalDate, DayParts>();
const partsOf = (iso: LocalDate): DayParts =>
  kept(parted, iso, () => {
    const at = numberOf(iso) * DAY_MS;
    const [short, long] = [SHORT.formatToParts(at), LONG.formatToParts(at)];
    return {
      weekday: pick(short, 'weekday'),
      weekdayLong: pick(long, 'weekday'),
      day: pick(short, 'day'),
      month: pick(short, 'month'),
      monthLong: pick(long, 'month'),
      year: pick(short, 'year'),
      iso,
    };
  });

type Style = (p: DayParts) => string;
/** How a day is written: in a year that is clear, with its year, in full, and with its weekday. */
const STYLES: Record<Manner['days'], Record<'short' | 'year' | 'long' | 'longYear' | 'weekday', Style>> = {
  'day-first': {
    short: (p) => `${p.day} ${p.month}`,
    year: (p) => `${p.day} ${p.month} ${p.year}`,
    long: (p) => `${p.day} ${p.monthLong}`,
    longYear: (p) => `${p.day} ${p.monthLong} ${p.year}`,
    weekday: (p) => `${p.weekday} ${p.day} ${p.month}`,
  },
  'month-first': {
    short: (p) => `${p.month} ${p.day}`,
    year: (p) => `${p.month} ${p.day}, ${p.year}`,
    long: (p) => `${p.monthLong} ${p.day}`,
    longYear: (p) => `${p.monthLong} ${p.day}, ${p.year}`,
    weekday: (p) => `${p.weekday} ${p.month} ${p.day}`,
  },
  iso: {
    short: (p) => p.iso,
    year: (p) => p.iso,
    long: (p) => p.iso,
    longYear: (p) => p.iso,
    weekday: (p) => `${p.weekday} ${p.iso}`,
  },
};
const say = (day: LocalDate, style: keyof (typeof STYLES)['iso']): string =>
  STYLES[mannerNow().days][style](partsOf(day));

/** "18 Dec", or "18 Dec 2027" in another year than `today`'s; in the programme's manner. */
export const sayDay = (day: LocalDate, today: LocalDate): string =>
  say(day, sameYearOrNear(day, today) ? 'short' : 'year');

/** "18 December", for headlines. */
export const sayDayLong = (day: LocalDate, today: LocalDate): string =>
  say(day, sameYearOrNear(day, today) ? 'long' : 'longYear');

/** "Fri 18 Dec". */
export const sayWeekday = (day: LocalDate): string => say(day, 'weekday');

/** "Fri". */
export const sayWeekdayShort = (day: LocalDate): string => partsOf(day).weekday;

/** "Friday". */
export const sayDayOfWeek = (day: LocalDate): string => partsOf(day).weekdayLong;

/** The first day of the programme's week that a day lies in. */
export const weekOf = (day: LocalDate): LocalDate => addDays(day, -daysIntoWeek(weekdayOf(day)));

// Within nine months a day and month cannot be mistaken for another year's.
const sameYearOrNear = (day: LocalDate, today: LocalDate) => Math.abs(daysBetween(today, day)) < 270;
