import type { Build, Tuner } from '../instruments/build';

/** Everything that hangs on what winds a string. Common practice, no source. */
export interface TunerPart {
  name: string;
  /** What it is called in a sentence. */
  word: 'post' | 'peg' | 'roller';
  /** Turns of its button for one of the post or peg; friction and wooden pegs turn directly. */
  gearRatio: number;
  /** It clamps the string, which then needs no winds. */
  locks: boolean;
  /** Lengths in mm where they are not the family's usual ones. */
  post: Build['post'] | null;
}

const post = (name: string, gearRatio: number, more: Partial<TunerPart> = {}): TunerPart => ({
  name,
  word: 'post',
  gearRatio,
  locks: false,
  post: null,
  ...more,
});

/** One entry for each tuner; its steps stand in `core/procedures/library/post`, its drawing in `PostDrawing`. */
export const TUNER: Record<Tuner, TunerPart> = {
  'plain-post': post('standard posts', 15),
  'slotted-post': post('slotted posts', 16),
  'locking-thumbwheel': post('locking posts (thumb screw at the back)', 16, { locks: true }),
  'locking-screw': post('locking posts (screw on top)', 16, { locks: true }),
  roller: post('rollers', 15, { word: 'roller', post: { diameterMm: 10, roomUnderHoleMm: 16, spacingMm: 35 } }),
  'friction-peg': post('friction pegs', 1, {
    word: 'peg',
    post: { diameterMm: 6.5, roomUnderHoleMm: 8, spacingMm: 38 },
  }),
  'tapered-peg': post('tapered wooden pegs', 1, { word: 'peg' }),
  planetary: post('geared pegs (planetary)', 4, { word: 'peg' }),
  'worm-gear': post('worm-gear machine heads', 24, { word: 'peg' }),
};

/** Posts that clamp the string. */
export const isLocking = (build: Pick<Build, 'tuner'>): boolean => TUNER[build.tuner].locks;
