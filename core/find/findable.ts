import { FAMILY_NAMES, type Family } from '../instruments/build';
import { fold } from '../text';

/** What else people call instruments of a family. */
const ALSO: Record<Family, string> = {
  'steel-acoustic': 'guitar gtr folk western',
  'twelve-string': 'guitar gtr twelve',
  classical: 'guitar gtr nylon spanish',
  electric: 'guitar gtr e-guitar',
  'bass-guitar': 'e-bass electric bass',
  ukulele: 'uke',
  banjo: '',
  mandolin: 'mando',
  violin: 'fiddle vn vln',
  viola: 'va vla',
  cello: 'vc violoncello',
  'double-bass': 'db upright string bass',
};

/** A tag without what parts it, and without noughts before its number: SK-0417 as sk0417 and sk417. */
export const compactTag = (tag: string): string => {
  const plain = fold(tag).replace(/[^\p{L}\p{N}]+/gu, '');
  const short = fold(tag)
    .split(/[^\p{L}\p{N}]+/u)
    .map((part) => part.replace(/^0+(?=\d)/, ''))
    .join('');
  return plain === short ? plain : `${plain} ${short}`;
};

/** The words by which an instrument is found, accents and case apart. */
export const findableText = (p: { tag: string; family: Family; size: string; rest: readonly string[] }): string =>
  [p.tag, compactTag(p.tag), FAMILY_NAMES[p.family], p.family, ALSO[p.family], p.size, ...p.rest]
    .filter(Boolean)
    .map(fold)
    .join(' ');

/** What is looked for, word by word: each has to be part of what is found. */
export const findWords = (query: string): string[] => fold(query).split(' ').filter(Boolean).slice(0, 8);
