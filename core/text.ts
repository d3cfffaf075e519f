import { distance } from 'fastest-levenshtein';

/** Most of what is compared has no accents to be taken off. */
const PLAIN = /^[ -~]*$/;

/** Text as it is compared: without accents and case, blanks once, umlauts as their letter. */
export const fold = (text: string): string =>
  (PLAIN.test(text) ? text : text.normalize('NFKD').replace(/\p{M}/gu, ''))
    .toLowerCase()
    .replaceAll('ß', 'ss')
    .replace(/\s+/g, ' ')
    .trim();

/** The words of a folded text; a fraction and a number with its inches are one word each. */
export const wordsOf = (folded: string): string[] => folded.match(/\d+\/\d+|\d+(?:[.,]\d+)?|\p{L}+|["″”]/gu) ?? [];

/** How alike two words are: 1 the same, 0 nothing in common. By the edit distance, as a share of the longer. */
export const alike = (a: string, b: string): number =>
  a === b ? 1 : a && b ? 1 - distance(a, b) / Math.max(a.length, b.length) : 0;

/** "rm" may stand for "room": it begins as it does and its letters follow in that order. */
function shortFor(short: string, long: string): boolean {
  if (short.length < 2 || short.length >= long.length || short[0] !== long[0]) return false;
  let at = 0;
  for (const letter of long) if (letter === short[at]) at += 1;
  return at === short.length;
}

/** Whether two names may well be of the same thing: their numbers agree, and their words are alike or abbreviations. */
export function sameThing(a: string, b: string): boolean {
  const [x, y] = [wordsOf(fold(a)), wordsOf(fold(b))];
  if (x.length !== y.length || x.length === 0) return false;
  return x.every((word, i) => {
    const other = y[i] as string;
    if (word === other) return true;
    if (/\d/.test(word) || /\d/.test(other)) return false;
    return alike(word, other) >= 0.75 || shortFor(word, other) || shortFor(other, word);
  });
}

/** What people write where they know nothing. */
const NOTHING = new Set(['', '-', '–', '—', '?', '??', '???', 'n/a', 'na', 'none', 'unknown', 'unbekannt', 'tbd', 'x']);
export const isNothing = (text: string): boolean => NOTHING.has(fold(text));
