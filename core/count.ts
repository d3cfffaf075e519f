const rules = new Intl.PluralRules('en-GB');
const list = new Intl.ListFormat('en-GB', { type: 'conjunction' });
const either = new Intl.ListFormat('en-GB', { type: 'disjunction' });

/**
 * The form of a word that agrees with a number.
 * @param n how many
 * @param one the form for one, such as "string" or "is"
 * @param more the form for any other number; made with an s where it is not given
 * @example `plural(2, 'string')` is "strings", `plural(1, 'is', 'are')` is "is"
 */
export const plural = (n: number, one: string, more = `${one}s`): string => (rules.select(n) === 'one' ? one : more);

/**
 * A number with its word.
 * @example `count(1, 'instrument')` is "1 instrument", `count(2, 'person', 'people')` is "2 people"
 */
export const count = (n: number, one: string, more?: string): string =>
  `${n.toLocaleString('en-GB')} ${plural(n, one, more)}`;

/**
 * How often something is done.
 * @example `times(1)` is "once", `times(2)` is "twice", `times(3)` is "3 times"
 */
export const times = (n: number): string => (n === 1 ? 'once' : n === 2 ? 'twice' : `${n} times`);

/**
 * Names in one sentence.
 * @example `sayList(['a', 'b', 'c'])` is "a, b and c"
 */
export const sayList = (parts: readonly string[]): string => list.format(parts);

/**
 * Names of which one is to be chosen.
 * @example `sayEither(['a', 'b', 'c'])` is "a, b or c"
 */
export const sayEither = (parts: readonly string[]): string => either.format(parts);

const COUNTS = [
  'no',
  'one',
  'two',
  'three',
  'four',
  'five',
  'six',
  'seven',
  'eight',
  'nine',
  'ten',
  'eleven',
  'twelve',
];

/** "six", "twelve"; above that in figures. */
export const countWord = (n: number): string => COUNTS[n] ?? String(n);

/**
 * A number to the nearest half, as a hand counts winds.
 * @example `halves(2.4)` is "2½", `halves(3.1)` is "3", `halves(0.6)` is "½"
 */
export function halves(n: number): string {
  const twice = Math.round(n * 2);
  const whole = Math.floor(twice / 2);
  return twice % 2 === 0 ? String(whole) : `${whole === 0 ? '' : whole}½`;
}

const QUARTERS: Record<number, string> = { 1: 'a quarter turn', 2: 'half a turn', 3: 'three quarters of a turn' };

/**
 * Turns of a tuner's button as a hand makes them.
 * @param turns of the button, more than 0
 * @example `sayTurns(0.2)` is "a quarter turn", `sayTurns(1.6)` is "1½ turns"
 */
export function sayTurns(turns: number): string {
  const quarters = Math.max(1, Math.round(turns * 4));
  return QUARTERS[quarters] ?? `${halves(turns)} ${plural(Math.round(turns * 2) / 2, 'turn')}`;
}

/**
 * Winds of a string round its post, as they are counted at the bench: to the nearest half.
 * @param turns turns of the post, 0 or more
 * @example `sayWinds(2.4)` is "2½ winds", `sayWinds(1.1)` is "1 wind", `sayWinds(0.1)` is "less than one wind"
 */
export function sayWinds(turns: number): string {
  const half = Math.round(turns * 2) / 2;
  return half < 1 ? 'less than one wind' : `${halves(half)} ${plural(half, 'wind')}`;
}
