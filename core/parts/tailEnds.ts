import type { Extra, StringEnd, TailEnd } from '../instruments/build';

/** Everything that hangs on how strings are held at the tail. Common practice, no source. */
export interface TailEndPart {
  name: string;
  /** String ends it takes; the first is the usual one. */
  ends: readonly [StringEnd, ...StringEnd[]];
  /** How a string is held there, which decides what is watched and what is cut. */
  holds: 'pin' | 'tie' | 'knot-in-slot' | 'ball-in-hole' | 'hook' | 'tailpiece';
  /** Length in mm of string that it takes up; by the scale in mm where it is the after-length of a bowed instrument. */
  lengthMm: (on: { bowed: boolean; bass?: boolean; scaleMm: number }) => number;
  /** A bridge in front of it may stand by the pull of the strings alone. */
  mayFloat: boolean;
  /** It hangs on its studs and falls off without strings, unless it is held. */
  hangs: boolean;
  /** It has adjusting screws. */
  screwed: boolean;
  /** What is always there with it, and what may be. */
  brings: readonly Extra[];
  mayHave: readonly Extra[];
}

const part = (
  p: Pick<TailEndPart, 'name' | 'ends' | 'holds'> & { lengthMm: number | TailEndPart['lengthMm'] } & Partial<
      Omit<TailEndPart, 'lengthMm'>
    >,
): TailEndPart => ({
  mayFloat: false,
  hangs: false,
  screwed: false,
  brings: [],
  mayHave: [],
  ...p,
  lengthMm: typeof p.lengthMm === 'number' ? () => p.lengthMm as number : p.lengthMm,
});

// On the violin family the after-length is a sixth of the string length, on a double bass nearer a third; plus what sits
// in the tailpiece. Common practice, no source.
const afterLength: TailEndPart['lengthMm'] = ({ bowed, bass, scaleMm }) =>
  bowed ? scaleMm * (bass ? 0.3 : 1 / 6) + 15 : 120;
const STUDS = { screwed: true, hangs: true, mayHave: ['ball-end-spacers', 'tailpiece-held'] } as const;

/** One entry for each tail end; its steps stand in `core/procedures/library`, its drawing in `TailDrawing`. */
export const TAIL_END: Record<TailEnd, TailEndPart> = {
  'pin-bridge': part({ name: 'pin bridge', ends: ['ball', 'knot'], holds: 'pin', lengthMm: 20, brings: ['pins'] }),
  'tie-block-6': part({ name: 'tie block with 6 holes', ends: ['plain', 'ball'], holds: 'tie', lengthMm: 90 }),
  'tie-block-12': part({ name: 'tie block with 12 holes', ends: ['plain', 'ball'], holds: 'tie', lengthMm: 110 }),
  'uke-tie': part({ name: 'tie bridge', ends: ['plain'], holds: 'tie', lengthMm: 70 }),
  'uke-slot': part({ name: 'slotted bridge (knotted strings)', ends: ['knot'], holds: 'knot-in-slot', lengthMm: 30 }),
  'through-body': part({
    name: 'string-through body with ferrules',
    ends: ['ball'],
    holds: 'ball-in-hole',
    lengthMm: 55,
    screwed: true,
  }),
  'rear-block': part({
    name: 'rear-loaded vibrato block',
    ends: ['ball'],
    holds: 'ball-in-hole',
    lengthMm: 60,
    screwed: true,
  }),
  'stop-tailpiece': part({
    name: 'stop tailpiece (straight through)',
    ends: ['ball'],
    holds: 'ball-in-hole',
    lengthMm: 55,
    ...STUDS,
    mayHave: [...STUDS.mayHave, 'tail-slotted'],
  }),
  'stop-tailpiece-wrapped': part({
    name: 'stop tailpiece (wrapped over)',
    ends: ['ball'],
    holds: 'ball-in-hole',
    lengthMm: 85,
    ...STUDS,
  }),
  'wrap-around': part({ name: 'wrap-around bridge', ends: ['ball'], holds: 'ball-in-hole', lengthMm: 35, ...STUDS }),
  'loop-tailpiece': part({
    name: 'hook tailpiece',
    ends: ['loop', 'ball'],
    holds: 'hook',
    lengthMm: 100,
    mayFloat: true,
    mayHave: ['tailpiece-cover', 'cover-slides'],
  }),
  'tailpiece-plain': part({
    name: 'tailpiece',
    ends: ['ball', 'knot'],
    holds: 'tailpiece',
    lengthMm: afterLength,
    mayFloat: true,
  }),
  'tailpiece-fine-tuners': part({
    name: 'tailpiece with fine tuners',
    ends: ['ball', 'loop', 'knot'],
    holds: 'tailpiece',
    lengthMm: afterLength,
    mayFloat: true,
    brings: ['fine-tuners'],
  }),
};

/** Whether strings are tied there, so that their tails are trimmed as well. */
export const isTied = (tailEnd: TailEnd): boolean => TAIL_END[tailEnd].holds === 'tie';
/** Whether it is a bridge with pins. */
export const isPinned = (tailEnd: TailEnd): boolean => TAIL_END[tailEnd].holds === 'pin';

/** Whether the tail end falls off when no string pulls on it: it hangs on its studs, and nothing else holds it. */
export const comesLoose = (build: { tailEnd: TailEnd; extras: readonly Extra[] }): boolean =>
  TAIL_END[build.tailEnd].hangs && !build.extras.includes('tailpiece-held');
