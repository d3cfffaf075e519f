import type { LocalDate } from '../dates';
import { TAIL_END } from '../parts/tailEnds';
import { TUNER } from '../parts/tuners';
import { capital } from '../sentence';

/**
 * What distinguishes one instrument from another: a procedure follows from these parts, never from the family name
 * alone. The lists are the vocabulary; forms, imports and the database take their choices from here.
 */
export const FAMILIES = [
  'steel-acoustic',
  'twelve-string',
  'classical',
  'electric',
  'bass-guitar',
  'ukulele',
  'banjo',
  'mandolin',
  'violin',
  'viola',
  'cello',
  'double-bass',
] as const;
export type Family = (typeof FAMILIES)[number];

export const FAMILY_NAMES: Record<Family, string> = {
  'steel-acoustic': 'Steel-string acoustic',
  'twelve-string': '12-string',
  classical: 'Classical guitar',
  electric: 'Electric guitar',
  'bass-guitar': 'Bass guitar',
  ukulele: 'Ukulele',
  banjo: 'Banjo, 5-string',
  mandolin: 'Mandolin',
  violin: 'Violin',
  viola: 'Viola',
  cello: 'Cello',
  'double-bass': 'Double bass',
};

export const BOWED: readonly Family[] = ['violin', 'viola', 'cello', 'double-bass'];
export const isBowed = (family: Family): boolean => BOWED.includes(family);

export const SIZES: Record<Family, readonly string[]> = {
  'steel-acoustic': ['4/4', '3/4', '1/2'],
  'twelve-string': ['4/4'],
  classical: ['4/4', '7/8', '3/4', '1/2', '1/4'],
  electric: ['4/4', '3/4'],
  'bass-guitar': ['4/4', '3/4'],
  ukulele: ['soprano', 'concert', 'tenor', 'baritone'],
  banjo: ['4/4'],
  mandolin: ['4/4'],
  violin: ['4/4', '3/4', '1/2', '1/4', '1/8'],
  viola: ['16 in', '15 in', '14 in', '13 in'],
  cello: ['4/4', '3/4', '1/2', '1/4'],
  'double-bass': ['3/4', '1/2', '1/4'],
};

export const HEADS = ['split-sides', 'in-line', 'slotted', 'pegbox', 'fifth-peg'] as const;
export const TUNERS = [
  'plain-post',
  'slotted-post',
  'locking-thumbwheel',
  'locking-screw',
  'roller',
  'friction-peg',
  'tapered-peg',
  'planetary',
  'worm-gear',
] as const;
export const TAIL_ENDS = [
  'pin-bridge',
  'tie-block-6',
  'tie-block-12',
  'uke-tie',
  'uke-slot',
  'through-body',
  'rear-block',
  'stop-tailpiece',
  'stop-tailpiece-wrapped',
  'wrap-around',
  'loop-tailpiece',
  'tailpiece-plain',
  'tailpiece-fine-tuners',
] as const;
export const BRIDGES = ['fixed', 'floating'] as const;
export const STRING_ENDS = ['ball', 'double-ball', 'loop', 'plain', 'knot'] as const;
export const EXTRAS = [
  'pins',
  'bridge-screws',
  'ball-end-spacers',
  'string-sleeves',
  'pickup-clip',
  'felt-washer',
  'fine-tuners',
  'tailpiece-cover',
  'string-tree',
  'capo-spikes',
  'tailpiece-held',
  'tail-slotted',
  'cover-slides',
] as const;
export const FINGERBOARDS = ['bare-dark', 'maple', 'gloss'] as const;

export type Head = (typeof HEADS)[number];
export type Tuner = (typeof TUNERS)[number];
export type TailEnd = (typeof TAIL_ENDS)[number];
export type BridgeMount = (typeof BRIDGES)[number];
export type StringEnd = (typeof STRING_ENDS)[number];
export type Extra = (typeof EXTRAS)[number];
export type Fingerboard = (typeof FINGERBOARDS)[number];
export type Handedness = 'right' | 'left';

/** Which row of posts a string goes to, named by pitch side, not by where someone stands. */
export type Side = 'bass' | 'treble';

/** One string's place on an instrument. */
export interface Position {
  /** 1 is the thinnest on most instruments; on a banjo the fifth is the short one. */
  number: number;
  /** Strings of one course share it; equal to `number` on single-strung instruments. */
  course: number;
  /** Sounding pitch, scientific notation. */
  note: string;
  side: Side;
  /** 1 is the post nearest the nut on its side. */
  postOrder: number;
  nutToPostMm: number;
  /** Width of its slot in the nut, where it was measured. */
  nutSlotMm?: number;
  /** Speaking length in mm where it differs from the instrument's (the short fifth of a banjo). */
  speakingLengthMm?: number;
}

/** All that decides how this instrument is strung. Lengths in mm. */
export interface Build {
  family: Family;
  size: string;
  handedness: Handedness;
  scaleMm: number;
  head: Head;
  tuner: Tuner;
  tailEnd: TailEnd;
  bridge: BridgeMount;
  stringEnd: StringEnd;
  fingerboard: Fingerboard;
  extras: Extra[];
  post: { diameterMm: number; roomUnderHoleMm: number; spacingMm: number };
  /** From nut to bridge as somebody measured it on this very instrument; absent: nobody did. */
  noted?: { lengthMm: number; on: LocalDate };
  positions: Position[];
}

const namesOf = <K extends string>(parts: Record<K, { name: string }>): Record<K, string> =>
  Object.fromEntries(Object.entries<{ name: string }>(parts).map(([k, p]) => [k, p.name])) as Record<K, string>;

/** Words for the attribute values, as the trade says them. */
export const PART_NAMES: Record<Head | Tuner | TailEnd | BridgeMount | StringEnd | Extra | Fingerboard, string> = {
  'split-sides': 'tuners on both sides',
  'in-line': 'all tuners in line',
  slotted: 'slotted headstock',
  pegbox: 'pegbox',
  'fifth-peg': 'tuners on both sides, fifth peg on the neck',
  ...namesOf(TUNER),
  ...namesOf(TAIL_END),
  fixed: 'fixed bridge',
  floating: 'floating bridge',
  ball: 'ball end',
  'double-ball': 'double ball end',
  loop: 'loop end',
  plain: 'plain end',
  knot: 'knotted end',
  pins: 'pins',
  'bridge-screws': 'bridge adjusting screws',
  'ball-end-spacers': 'ball-end spacers',
  'string-sleeves': 'string sleeves',
  'pickup-clip': 'pickup clip',
  'felt-washer': 'felt washer',
  'fine-tuners': 'fine tuners',
  'tailpiece-cover': 'tailpiece cover',
  'string-tree': 'string tree',
  'capo-spikes': 'capo spikes',
  'tailpiece-held': 'tailpiece held by a screw or clip',
  'tail-slotted': 'open slots in the tailpiece: balls hook in',
  'cover-slides': 'cover slides off',
  'bare-dark': 'bare (unfinished) dark board',
  maple: 'maple board',
  gloss: 'gloss-finished board',
};

/** Speaking length in mm of one position. */
export const speakingLengthMm = (build: Pick<Build, 'scaleMm'>, position: Position): number =>
  position.speakingLengthMm ?? build.scaleMm;

/** "Steel-string acoustic, 3/4"; a full size is not said. */
export function describeBuild(family: Family, size: string): string {
  if (family === 'ukulele') return `${capital(size)} ukulele`;
  return size === '4/4' ? FAMILY_NAMES[family] : `${FAMILY_NAMES[family]}, ${size}`;
}
