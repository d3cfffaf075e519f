/** "1 instrument", "2 instruments"; what forms its plural otherwise says it. */
export const count = (n: number, one: string, more = `${one}s`): string => `${n} ${n === 1 ? one : more}`;

/** "a", "a and b", "a, b and c". */
export const sayList = (parts: readonly string[]): string =>
  parts.length < 2 ? (parts[0] ?? '') : `${parts.slice(0, -1).join(', ')} and ${parts.at(-1)}`;

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
