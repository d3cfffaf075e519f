import { FAMILY_NAMES, type Family, SIZES } from '../instruments/build';
import { alike, fold, wordsOf } from '../text';

/** What free words say of an instrument. */
export interface KindRead {
  family: Family;
  size: string;
  handedness: 'right' | 'left';
}
export interface KindGuess {
  /** The best reading; null where the words say nothing. */
  best: KindRead | null;
  /** `sure`: nobody has to be asked. */
  confidence: 'sure' | 'likely' | 'unsure';
  others: KindRead[];
}

/**
 * Words that speak for a family: how much, and for which. A word with an asterisk is the beginning of one. Trade words and
 * abbreviations of several languages; common practice, no source.
 */
const WORDS: readonly (readonly [string, Partial<Record<Family, number>>])[] = [
  ['git*', { 'steel-acoustic': 1, classical: 1, electric: 0.6, 'bass-guitar': 0.4 }],
  ['guit*', { 'steel-acoustic': 1, classical: 1, electric: 0.6, 'bass-guitar': 0.4 }],
  ['gtr*', { 'steel-acoustic': 1, classical: 1, electric: 0.6, 'bass-guitar': 0.4 }],
  ['chit*', { 'steel-acoustic': 1, classical: 1, electric: 0.6 }],
  ['acoustic*', { 'steel-acoustic': 2 }],
  ['akustik*', { 'steel-acoustic': 2 }],
  ['acoust*', { 'steel-acoustic': 2 }],
  ['western*', { 'steel-acoustic': 3 }],
  ['steel*', { 'steel-acoustic': 3 }],
  ['stahl*', { 'steel-acoustic': 3 }],
  ['folk*', { 'steel-acoustic': 2 }],
  ['dreadn*', { 'steel-acoustic': 3 }],
  ['parlo*', { 'steel-acoustic': 2 }],
  ['jumbo', { 'steel-acoustic': 3 }],
  ['class*', { classical: 3 }],
  ['klass*', { classical: 3 }],
  ['clas', { classical: 3 }],
  ['konzert*', { classical: 2, ukulele: 1 }],
  ['nylon*', { classical: 3 }],
  ['spanish', { classical: 3 }],
  ['flamenco', { classical: 3 }],
  ['electr*', { electric: 3, 'bass-guitar': 0.5 }],
  ['elektr*', { electric: 3, 'bass-guitar': 0.5 }],
  ['elec', { electric: 3 }],
  ['el', { electric: 2 }],
  ['e', { electric: 2 }],
  ['egit*', { electric: 4 }],
  ['bass*', { 'bass-guitar': 2, 'double-bass': 2 }],
  ['bassgit*', { 'bass-guitar': 5 }],
  ['ebass', { 'bass-guitar': 5 }],
  ['double', { 'double-bass': 2 }],
  ['upright', { 'double-bass': 2 }],
  ['string', { 'double-bass': 0.5 }],
  ['kontra*', { 'double-bass': 4 }],
  ['contra*', { 'double-bass': 4 }],
  ['kb', { 'double-bass': 3 }],
  ['cb', { 'double-bass': 3 }],
  ['db', { 'double-bass': 3 }],
  ['uke*', { ukulele: 4 }],
  ['ukul*', { ukulele: 4 }],
  ['sopran*', { ukulele: 2 }],
  ['baritone', { ukulele: 1 }],
  ['bariton', { ukulele: 1 }],
  ['bar', { ukulele: 0.5 }],
  ['banj*', { banjo: 4 }],
  ['mando*', { mandolin: 4 }],
  ['violin*', { violin: 4 }],
  ['fiddle*', { violin: 4 }],
  ['geige*', { violin: 4 }],
  ['vln*', { violin: 4 }],
  ['vl', { violin: 3 }],
  ['vn', { violin: 3 }],
  ['vio', { violin: 1, viola: 1 }],
  ['viola*', { viola: 4 }],
  ['bratsche*', { viola: 4 }],
  ['vla', { viola: 4 }],
  ['va', { viola: 3 }],
  ['cello*', { cello: 4 }],
  ['violonc*', { cello: 4 }],
  ['celli', { cello: 4 }],
  ['vc', { cello: 3 }],
  ['vlc', { cello: 4 }],
];

/** Words of sizes that are no fraction. */
const SIZE_WORDS: Record<string, string> = {
  full: '4/4',
  ganz: '4/4',
  ganze: '4/4',
  half: '1/2',
  halb: '1/2',
  halbe: '1/2',
  quarter: '1/4',
  viertel: '1/4',
  eighth: '1/8',
  achtel: '1/8',
  sopran: 'soprano',
  soprano: 'soprano',
  concert: 'concert',
  konzert: 'concert',
  tenor: 'tenor',
  bariton: 'baritone',
  baritone: 'baritone',
  bar: 'baritone',
  sop: 'soprano',
  ten: 'tenor',
  con: 'concert',
};

/** The size that is meant where none is said; a family that is not here has no usual one. */
const USUAL_SIZE: Partial<Record<Family, string>> = Object.fromEntries(
  Object.entries(SIZES).flatMap(([family, sizes]) =>
    family === 'ukulele' || family === 'viola' ? [] : [[family, sizes[0]]],
  ),
);

const LEFT = ['left', 'lefty', 'lh', 'links', 'linkshander', 'linkshandig'];
/** Words that say nothing of the kind. */
const IDLE = new Set([
  'handed',
  'size',
  'grosse',
  'gr',
  'instrument',
  'school',
  'student',
  'schul',
  'student',
  'rh',
  'right',
  'the',
  'a',
]);

const speaks = (pattern: string, word: string): boolean =>
  pattern.endsWith('*') ? word.startsWith(pattern.slice(0, -1)) : word === pattern;

function sizesSaid(words: readonly string[]): string[] {
  const said: string[] = [];
  words.forEach((word, i) => {
    if (/^\d+\/\d+$/.test(word)) said.push(word);
    else if (SIZE_WORDS[word]) said.push(SIZE_WORDS[word]);
    else if (/^\d{2}(?:[.,]\d)?$/.test(word)) {
      const next = words[i + 1] ?? '';
      const number = Number(word.replace(',', '.'));
      if (/^(?:in|inch|inches|zoll|["″”])$/.test(next)) said.push(`${Math.round(number)} in`);
      else if (next === 'cm') said.push(`${Math.round(number / 2.54)} in`);
      // Violas are named by their body alone: 15, 38.
      else if (number >= 13 && number <= 17) said.push(`${Math.round(number)} in`);
    }
  });
  return said;
}

/**
 * What kind of instrument free words mean, as a list of instruments has them: "3/4 Vc", "bar. uke", "Konzertgit. 7/8". Each
 * word speaks for the families it is said of; who has most said for it is meant, and how far it leads says how sure that is.
 */
export function guessKind(text: string): KindGuess {
  const folded = fold(text).replaceAll('-', ' ').replaceAll('.', ' ');
  const words = wordsOf(folded);
  const scores = new Map<Family, number>();
  const add = (family: Family, by: number) => scores.set(family, (scores.get(family) ?? 0) + by);
  let understood = 0;
  let asked = 0;
  const twelve = words.some((w, i) => w === '12' && /^(?:string|str|saitig|er|s|strings)/.test(words[i + 1] ?? ''));
  words.forEach((word) => {
    if (
      IDLE.has(word) ||
      (twelve && /^(?:string|saitig|er$|str)/.test(word)) ||
      LEFT.includes(word) ||
      /\d|["″”]/.test(word) ||
      word === 'in' ||
      word === 'cm'
    )
      return;
    asked += 1;
    const spoken = WORDS.filter(([pattern]) => speaks(pattern, word));
    // Of two beginnings the longer says more: "violonc" is no violin.
    const longest = Math.max(0, ...spoken.map(([pattern]) => pattern.length));
    for (const [pattern, says] of spoken)
      if (pattern.length === longest) for (const [f, by] of Object.entries(says)) add(f as Family, by);
    if (spoken.length > 0 || SIZE_WORDS[word]) understood += 1;
    else {
      // A slip of the keys.
      const near = WORDS.filter(
        ([p]) => p.length > 4 && alike(p.replace('*', ''), word.slice(0, p.replace('*', '').length)) >= 0.75,
      );
      for (const [, says] of near.slice(0, 1)) for (const [f, by] of Object.entries(says)) add(f as Family, by * 0.6);
      if (near.length > 0) understood += 0.5;
    }
  });
  // Said of both: an electric bass is a bass guitar, as is a bass that is called a guitar.
  const bass = words.some((w) => w.startsWith('bass') || w === 'ebass');
  if (bass && (scores.get('electric') ?? 0) >= 0.6) {
    add('bass-guitar', 2);
    scores.delete('electric');
    scores.delete('steel-acoustic');
    scores.delete('classical');
  }
  if (twelve) {
    add('twelve-string', 5);
    scores.delete('double-bass');
  }
  const sizes = sizesSaid(words);
  // A size that only one family has speaks for it.
  for (const size of sizes)
    for (const family of Object.keys(SIZES) as Family[])
      if (/[a-z]/.test(size) && SIZES[family].includes(size) && scores.size > 0)
        add(family, size.endsWith(' in') ? 1 : 0.6);
  const handedness = words.some((w) => LEFT.some((l) => w === l || (l.length > 4 && w.startsWith(l))))
    ? ('left' as const)
    : ('right' as const);
  const ranked = [...scores].sort((a, b) => b[1] - a[1]);
  const read = (family: Family): { kind: KindRead; sized: boolean } => {
    const own = sizes.find((s) => SIZES[family].includes(s));
    const usual = USUAL_SIZE[family] ?? (family === 'ukulele' ? 'soprano' : '16 in');
    const meant = own ?? (sizes.length === 0 ? usual : (nearest(family, sizes) ?? usual));
    const fullToo = family === 'double-bass' && sizes.includes('4/4');
    return {
      kind: { family, size: meant, handedness },
      sized: own !== undefined || fullToo || (sizes.length === 0 && USUAL_SIZE[family] !== undefined),
    };
  };
  const [first, second] = ranked;
  if (!first) return { best: null, confidence: 'unsure', others: [] };
  const { kind, sized } = read(first[0]);
  const lead = first[1] - (second?.[1] ?? 0);
  const whole = asked === 0 ? 1 : understood / asked;
  const confidence =
    lead >= 1.5 && first[1] >= 2 && sized && whole >= 0.6 ? 'sure' : lead >= 0.5 && first[1] >= 2 ? 'likely' : 'unsure';
  return { best: kind, confidence, others: ranked.slice(1, 4).map(([family]) => read(family).kind) };
}

/** The size that stands nearest where the one that was said does not exist: a fraction by its value. */
function nearest(family: Family, said: readonly string[]): string | null {
  const value = (size: string): number | null => {
    const [a, b] = size.split('/').map(Number);
    return a && b ? a / b : null;
  };
  const wanted = said.map(value).find((v) => v !== null);
  if (wanted === undefined || wanted === null) return null;
  const sized = SIZES[family].flatMap((s) => {
    const v = value(s);
    return v === null ? [] : [{ s, off: Math.abs(Math.log(v / wanted)) }];
  });
  return sized.sort((a, b) => a.off - b.off)[0]?.s ?? null;
}

/** "Violin, 3/4, left-handed", as it is written into a sheet and read from it again. */
export const sayKind = (k: KindRead): string =>
  `${FAMILY_NAMES[k.family]}${k.size === '4/4' ? '' : `, ${k.size}`}${k.handedness === 'left' ? ', left-handed' : ''}`;
