import { addDays, isLocalDate, type LocalDate } from '../dates';
import { fold, isNothing } from '../text';

/** In which order a day is written with figures. */
export const DAY_STYLES = ['dmy', 'mdy', 'ymd'] as const;
export type DayStyle = (typeof DAY_STYLES)[number];
export const DAY_STYLE_NAMES: Record<DayStyle, string> = {
  dmy: 'day, month, year',
  mdy: 'month, day, year',
  ymd: 'year, month, day',
};

/** A day as somebody wrote it. */
export type ReadDay =
  | { kind: 'none' }
  /** `exact`: the day itself; `month` and `year`: the first day of it, which is meant only about. */
  | { kind: 'day'; on: LocalDate; exact: 'day' | 'month' | 'year' | 'serial' }
  /** It can be none; a day that was probably meant, where there is one. */
  | { kind: 'wrong'; says: string; meant: LocalDate | null };

// The first letters by which months are told apart in the languages whose sheets come along; common abbreviations.
const MONTHS: readonly (readonly string[])[] = [
  ['jan', 'ener', 'genn'],
  ['feb', 'fevr', 'febb'],
  ['mar', 'maer', 'mrz'],
  ['apr', 'avr', 'abr'],
  ['may', 'mai', 'mag', 'mei'],
  ['jun', 'juin', 'giu'],
  ['jul', 'juil', 'lug'],
  ['aug', 'aout', 'ago'],
  ['sep', 'set'],
  ['oct', 'okt', 'ott'],
  ['nov'],
  ['dec', 'dez', 'dic'],
];

function monthNamed(word: string): number | null {
  const found = MONTHS.findIndex((names) => names.some((n) => word.startsWith(n)));
  return found < 0 ? null : found + 1;
}

const iso = (year: number, month: number, day: number): LocalDate =>
  `${String(year).padStart(4, '0')}-${String(month).padStart(2, '0')}-${String(day).padStart(2, '0')}`;

const fullYear = (year: number): number => (year >= 100 ? year : year < 80 ? 2000 + year : 1900 + year);

/** Spreadsheets count days from 30 December 1899, where a cell is no longer shown as a day. */
const SERIAL_FROM: LocalDate = '1899-12-30';
const SERIALS = { from: 25_569, to: 73_050 };

function dayOf(year: number, month: number, day: number, text: string): ReadDay {
  const full = fullYear(year);
  const on = iso(full, month, day);
  if (month >= 1 && month <= 12 && isLocalDate(on)) return { kind: 'day', on, exact: 'day' };
  if (month < 1 || month > 12) return { kind: 'wrong', says: `no such month in “${text}”`, meant: null };
  // The last day there is in that month is what was meant by a day too many.
  const last = [31, 30, 29, 28].map((d) => iso(full, month, d)).find((d) => isLocalDate(d)) ?? null;
  return { kind: 'wrong', says: `that month has no day ${day}`, meant: day > 28 && day <= 31 ? last : null };
}

const NUMBERS = /^(\d{1,4})\s*[./-]\s*(\d{1,2})\s*[./-]\s*(\d{1,4})\.?(?:[ t]\d{1,2}:\d{2}.*)?$/;

/**
 * A day as people write it: with figures in an order, with the month's name, a month or a year alone, or the number of a
 * day that a spreadsheet left.
 */
export function readDay(text: string, style: DayStyle): ReadDay {
  if (isNothing(text)) return { kind: 'none' };
  const folded = fold(text)
    .replace(/^(?:ca\.?|about|approx\.?|etwa|~|circa|c\.)\s*/, '')
    .replace(/,/g, ' ');
  const figures = NUMBERS.exec(folded);
  if (figures) {
    const [a, b, c] = [figures[1], figures[2], figures[3]] as [string, string, string];
    // A year of four figures says where it stands.
    // A short year does not stand first before dots.
    const as = a.length > 2 ? 'ymd' : style === 'ymd' && (c.length > 2 || folded.includes('.')) ? 'dmy' : style;
    if (as === 'ymd') return dayOf(Number(a), Number(b), Number(c), text);
    const [day, month] = as === 'dmy' ? [Number(a), Number(b)] : [Number(b), Number(a)];
    return dayOf(Number(c), month, day, text);
  }
  const month = /^(\d{1,2})\s*[./-]\s*(\d{4})$/.exec(folded) ?? null;
  if (month) return aboutMonth(Number(month[2]), Number(month[1]), text);
  const yearFirst = /^(\d{4})\s*[./-]\s*(\d{1,2})$/.exec(folded);
  if (yearFirst) return aboutMonth(Number(yearFirst[1]), Number(yearFirst[2]), text);
  if (/^(19|20)\d\d$/.test(folded)) return { kind: 'day', on: iso(Number(folded), 1, 1), exact: 'year' };
  if (/^\d{5}$/.test(folded) && Number(folded) >= SERIALS.from && Number(folded) <= SERIALS.to)
    return { kind: 'day', on: addDays(SERIAL_FROM, Number(folded)), exact: 'serial' };
  const named =
    /^(?:(\d{1,2})(?:st|nd|rd|th|\.)?\s*(?:of\s)?)?(\p{L}{3,})\.?\s*(?:(\d{1,2})(?:st|nd|rd|th)?\s+)?'?(\d{2}|\d{4})$/u.exec(
      folded,
    );
  const number = named ? monthNamed(named[2] as string) : null;
  if (named && number) {
    const day = named[1] ?? named[3];
    return day
      ? dayOf(Number(named[4]), number, Number(day), text)
      : aboutMonth(fullYear(Number(named[4])), number, text);
  }
  return { kind: 'wrong', says: `“${text.slice(0, 30)}” is not a date`, meant: null };
}

function aboutMonth(year: number, month: number, text: string): ReadDay {
  return month >= 1 && month <= 12
    ? { kind: 'day', on: iso(year, month, 1), exact: 'month' }
    : { kind: 'wrong', says: `no such month in “${text}”`, meant: null };
}

/** A time of the day as people write it: "9:30", "09.30", "9 am", "14h". @returns "09:30"; null when it is none */
export function readTime(text: string): string | null {
  const read = /^(\d{1,2})(?:\s*[:.h]\s*(\d{2})(?::\d{2})?)?\s*(?:h|uhr|o’?clock)?\s*([ap])?\.?\s*(?:m\.?)?$/.exec(
    fold(text).trim(),
  );
  if (!read) return null;
  const [, hours = '', minutes = '0', half] = read;
  const hour = (Number(hours) % (half ? 12 : 25)) + (half === 'p' ? 12 : 0);
  if (half && (Number(hours) < 1 || Number(hours) > 12)) return null;
  if (Number(hours) > 24 || Number(minutes) > 59 || (hour === 24 && Number(minutes) > 0)) return null;
  return `${String(hour).padStart(2, '0')}:${minutes.padStart(2, '0')}`;
}

/** The share of a column's cells that are times of the day. A bare number is none by itself. */
export const shareOfTimes = (values: readonly string[]): number =>
  values.length === 0 ? 0 : values.filter((v) => /\D/.test(v.trim()) && readTime(v) !== null).length / values.length;

/**
 * In which order the days of a column are written: the one by which most of them are days.
 * @returns `sure` is false where two orders fit equally well and mean different days
 */
export function dayStyleOf(values: readonly string[]): { style: DayStyle; sure: boolean } {
  const scores = DAY_STYLES.map((style) => ({
    style,
    fits: values.filter((v) => readDay(v, style).kind === 'day').length,
  }));
  const best = Math.max(...scores.map((s) => s.fits));
  const fitting = scores.filter((s) => s.fits === best).map((s) => s.style);
  const dots = values.filter((v) => /\d\.\d/.test(v)).length;
  const style = fitting.includes('dmy') ? 'dmy' : (fitting[0] as DayStyle);
  const other = fitting.includes('mdy') && fitting.includes('dmy');
  const differ = values.some((v) => {
    const [d, m] = [readDay(v, 'dmy'), readDay(v, 'mdy')];
    return d.kind === 'day' && m.kind === 'day' && d.on !== m.on;
  });
  // Months are not written before days with dots.
  return { style, sure: !(other && differ) || dots > 0 };
}

/** The share of a column's values that are days, of those that say anything. */
export function shareOfDays(values: readonly string[]): number {
  const said = values.filter((v) => !isNothing(v));
  if (said.length === 0) return 0;
  const days = (style: DayStyle) => said.filter((v) => readDay(v, style).kind === 'day').length;
  return Math.max(days('dmy'), days('mdy')) / said.length;
}

/** A number as people write it, with a point or a comma; null where it is none. */
export function readNumber(text: string): number | null {
  const plain = text.trim().replace(/\s|h(?:ours?|rs?)?$/giu, '');
  if (!/^[+-]?\d{1,9}(?:[.,]\d{1,6})?$/.test(plain)) return null;
  return Number(plain.replace(',', '.'));
}
