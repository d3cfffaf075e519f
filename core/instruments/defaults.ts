import { TAIL_END } from '../parts/tailEnds';
import { TUNER } from '../parts/tuners';
import { usualTuning } from '../pitch/tunings';
import type { Build, Extra, Family, Fingerboard, Head, Position, StringEnd, TailEnd, Tuner } from './build';

/** Usual scale lengths in mm by family and size. Common practice; a measured one replaces it. */
const SCALES_MM: Record<Family, Record<string, number>> = {
  'steel-acoustic': { '4/4': 648, '3/4': 597, '1/2': 558 },
  'twelve-string': { '4/4': 648 },
  classical: { '4/4': 650, '7/8': 630, '3/4': 590, '1/2': 530, '1/4': 485 },
  electric: { '4/4': 648, '3/4': 571 },
  'bass-guitar': { '4/4': 864, '3/4': 762 },
  ukulele: { soprano: 349, concert: 381, tenor: 432, baritone: 483 },
  banjo: { '4/4': 667 },
  mandolin: { '4/4': 352 },
  violin: { '4/4': 328, '3/4': 307, '1/2': 285, '1/4': 260, '1/8': 236 },
  viola: { '16 in': 375, '15 in': 357, '14 in': 340, '13 in': 322 },
  cello: { '4/4': 695, '3/4': 645, '1/2': 590, '1/4': 530 },
  'double-bass': { '3/4': 1050, '1/2': 970, '1/4': 890 },
};

interface Parts {
  head: Head;
  tuner: Tuner;
  tailEnd: TailEnd;
  stringEnd: StringEnd;
  fingerboard: Fingerboard;
  extras: Extra[];
  post: Build['post'];
  nutToFirstPostMm: number;
}

const guitarPost = { diameterMm: 6, roomUnderHoleMm: 6, spacingMm: 38 };
const bowedPeg = { diameterMm: 7.5, roomUnderHoleMm: 14, spacingMm: 16 };

const PARTS: Record<Family, Parts> = {
  'steel-acoustic': {
    head: 'split-sides',
    tuner: 'plain-post',
    tailEnd: 'pin-bridge',
    stringEnd: 'ball',
    fingerboard: 'bare-dark',
    extras: ['pins'],
    post: guitarPost,
    nutToFirstPostMm: 45,
  },
  'twelve-string': {
    head: 'split-sides',
    tuner: 'plain-post',
    tailEnd: 'pin-bridge',
    stringEnd: 'ball',
    fingerboard: 'bare-dark',
    extras: ['pins'],
    post: { ...guitarPost, spacingMm: 24 },
    nutToFirstPostMm: 40,
  },
  classical: {
    head: 'slotted',
    tuner: 'roller',
    tailEnd: 'tie-block-6',
    stringEnd: 'plain',
    fingerboard: 'bare-dark',
    extras: [],
    post: { diameterMm: 10, roomUnderHoleMm: 16, spacingMm: 35 },
    nutToFirstPostMm: 48,
  },
  electric: {
    head: 'in-line',
    tuner: 'slotted-post',
    tailEnd: 'through-body',
    stringEnd: 'ball',
    fingerboard: 'maple',
    extras: ['string-tree'],
    post: { diameterMm: 6, roomUnderHoleMm: 7, spacingMm: 25 },
    nutToFirstPostMm: 42,
  },
  'bass-guitar': {
    head: 'in-line',
    tuner: 'slotted-post',
    tailEnd: 'through-body',
    stringEnd: 'ball',
    fingerboard: 'maple',
    extras: ['string-tree'],
    post: { diameterMm: 12, roomUnderHoleMm: 14, spacingMm: 42 },
    nutToFirstPostMm: 60,
  },
  ukulele: {
    head: 'split-sides',
    tuner: 'friction-peg',
    tailEnd: 'uke-tie',
    stringEnd: 'plain',
    fingerboard: 'bare-dark',
    extras: [],
    post: { diameterMm: 6.5, roomUnderHoleMm: 8, spacingMm: 38 },
    nutToFirstPostMm: 36,
  },
  banjo: {
    head: 'fifth-peg',
    tuner: 'planetary',
    tailEnd: 'loop-tailpiece',
    stringEnd: 'loop',
    fingerboard: 'bare-dark',
    extras: ['tailpiece-cover'],
    post: { diameterMm: 6, roomUnderHoleMm: 7, spacingMm: 40 },
    nutToFirstPostMm: 40,
  },
  mandolin: {
    head: 'split-sides',
    tuner: 'plain-post',
    tailEnd: 'loop-tailpiece',
    stringEnd: 'loop',
    fingerboard: 'bare-dark',
    extras: ['tailpiece-cover'],
    post: { diameterMm: 5.5, roomUnderHoleMm: 6, spacingMm: 23 },
    nutToFirstPostMm: 32,
  },
  violin: {
    head: 'pegbox',
    tuner: 'tapered-peg',
    tailEnd: 'tailpiece-fine-tuners',
    stringEnd: 'ball',
    fingerboard: 'bare-dark',
    extras: ['fine-tuners'],
    post: bowedPeg,
    nutToFirstPostMm: 18,
  },
  viola: {
    head: 'pegbox',
    tuner: 'tapered-peg',
    tailEnd: 'tailpiece-fine-tuners',
    stringEnd: 'ball',
    fingerboard: 'bare-dark',
    extras: ['fine-tuners'],
    post: { ...bowedPeg, diameterMm: 8 },
    nutToFirstPostMm: 20,
  },
  cello: {
    head: 'pegbox',
    tuner: 'tapered-peg',
    tailEnd: 'tailpiece-fine-tuners',
    stringEnd: 'ball',
    fingerboard: 'bare-dark',
    extras: ['fine-tuners'],
    post: { diameterMm: 13, roomUnderHoleMm: 26, spacingMm: 30 },
    nutToFirstPostMm: 36,
  },
  'double-bass': {
    head: 'pegbox',
    tuner: 'worm-gear',
    tailEnd: 'tailpiece-plain',
    stringEnd: 'ball',
    fingerboard: 'bare-dark',
    extras: [],
    post: { diameterMm: 18, roomUnderHoleMm: 40, spacingMm: 55 },
    nutToFirstPostMm: 70,
  },
};

/**
 * Usual distance in mm from post to post: by the family, but a head with its posts on both sides has room for more than
 * one with all in line. Common practice, no source.
 */
function spacingOf(family: Family, head: Head): number {
  const usual = PARTS[family];
  if (head === usual.head || family === 'twelve-string') return usual.post.spacingMm;
  if (head === 'split-sides' && usual.head === 'in-line') return family === 'bass-guitar' ? 60 : 40;
  if (head === 'in-line' && usual.head === 'split-sides') return 25;
  return usual.post.spacingMm;
}

const FLOATING: readonly Family[] = ['banjo', 'mandolin', 'violin', 'viola', 'cello', 'double-bass'];
const PAIRED: readonly Family[] = ['twelve-string', 'mandolin'];

/** Place of a double bass's pegs from the nut by string, E to G: E and A are nearest, D's is the furthest. */
const BASS_PEG_RANK = [0, 1, 3, 2];

/**
 * Where each string goes. On a split head the bass half of the strings has its posts on the bass side, the outer
 * string of each half at the post nearest the nut; posts in line run from the lowest string outwards.
 */
function positionsFor(family: Family, notes: readonly string[], parts: Parts, scaleMm: number): Position[] {
  const count = notes.length;
  const strungOnNeck = family === 'banjo' ? 1 : 0;
  const onHead = count - strungOnNeck;
  const bassHalf = Math.ceil(onHead / 2);
  return notes.map((note, index) => {
    const number = count - index;
    const course = PAIRED.includes(family) ? Math.ceil(number / 2) : number;
    if (index < strungOnNeck) {
      // The short fifth starts at the fifth fret and its peg is beside it.
      const speakingLengthMm = Math.round(scaleMm * 2 ** (-5 / 12));
      return { number, course, note, side: 'bass', postOrder: 1, nutToPostMm: 15, speakingLengthMm };
    }
    const fromBass = index - strungOnNeck;
    const inLine = parts.head === 'in-line';
    const side = inLine || fromBass < bassHalf ? 'bass' : 'treble';
    const postOrder = inLine || fromBass < bassHalf ? fromBass + 1 : onHead - fromBass;
    // The pegs of a double bass follow one another up the box.
    const rank = family === 'double-bass' ? BASS_PEG_RANK[fromBass] : postOrder - 1;
    const nutToPostMm = parts.nutToFirstPostMm + (rank ?? 0) * (family === 'double-bass' ? 40 : parts.post.spacingMm);
    return { number, course, note, side, postOrder, nutToPostMm };
  });
}

/** Extras that belong to one tail end and go with it. */
const OF_TAIL_ENDS = new Set<Extra>(Object.values(TAIL_END).flatMap((t) => [...t.brings, ...t.mayHave]));

/**
 * The usual build of a family and size, to start an instrument from; every value can be replaced by a measured one.
 * Common practice, no source.
 * @param chosen parts that differ from the usual ones; posts, string end, extras and the places of the strings follow
 *   from them unless they are given too
 * @throws RangeError for a size the family does not come in.
 */
export function defaultBuild(family: Family, size: string, chosen: Partial<Build> = {}): Build {
  const usualScale = SCALES_MM[family][size];
  if (usualScale === undefined) {
    throw new RangeError(
      `${family} does not come in size “${size}”. Sizes: ${Object.keys(SCALES_MM[family]).join(', ')}.`,
    );
  }
  const scaleMm = chosen.scaleMm ?? usualScale;
  const usual = PARTS[family];
  const head = chosen.head ?? usual.head;
  const tuner = chosen.tuner ?? (head === 'slotted' ? 'roller' : usual.tuner);
  const tailEnd = chosen.tailEnd ?? usual.tailEnd;
  const post = chosen.post ??
    (tuner !== usual.tuner ? TUNER[tuner].post : undefined) ?? { ...usual.post, spacingMm: spacingOf(family, head) };
  const parts = { ...usual, head, post };
  const extras = usual.extras.filter((e) => !OF_TAIL_ENDS.has(e) || tailEnd === usual.tailEnd);
  extras.push(...TAIL_END[tailEnd].brings.filter((e) => !extras.includes(e)));
  return {
    family,
    size,
    handedness: 'right',
    tailEnd,
    fingerboard: usual.fingerboard,
    bridge: FLOATING.includes(family) ? 'floating' : 'fixed',
    ...chosen,
    stringEnd: chosen.stringEnd ?? (tailEnd === usual.tailEnd ? usual.stringEnd : TAIL_END[tailEnd].ends[0]),
    head,
    tuner,
    scaleMm,
    extras: chosen.extras ?? extras.filter((e) => e !== 'string-tree' || head === 'in-line'),
    post: { ...post },
    positions: chosen.positions ?? positionsFor(family, usualTuning(family, size).notes, parts, scaleMm),
  };
}
