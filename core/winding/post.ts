import type { Build, Handedness, Head, Position, Side } from '../instruments/build';

/**
 * Turns that a length in mm makes on a post: S / (π (D + d)), the string lying with its centre half a gauge off the
 * post.
 */
export function turnsFor(lengthMm: number, postDiameterMm: number, gaugeMm: number): number {
  return lengthMm / (Math.PI * (postDiameterMm + gaugeMm));
}

/** The slack in mm that gives so many turns; the inverse of `turnsFor`. */
export function lengthForTurns(turns: number, postDiameterMm: number, gaugeMm: number): number {
  return turns * Math.PI * (postDiameterMm + gaugeMm);
}

/** Fewest turns that hold, and most that still settle. */
export interface WindLimits {
  least: number;
  most: number;
}

export interface Winds {
  /** Turns from the slack alone. */
  fromSlack: number;
  /** Further turns from what the string gives elastically on the way to pitch. */
  fromStretch: number;
  /** Turns of the post from threading to pitch. */
  turns: number;
  /** Coils one sees on the post: a part of a turn shows as a coil too. */
  coils: number;
  /** Height of the stack in mm: turns × gauge. */
  stackMm: number;
  /** Judged against the least and most that hold and settle. */
  verdict: 'too-few' | 'good' | 'too-many' | 'no-room';
}

/**
 * What a given slack comes to on this post.
 * @param p.elasticMm what the string gives on the way to pitch, in mm (see `elasticTakeUpMm`); on nylon it is more
 *   than a turn, so turns from slack alone are badly low there
 * @param p.least fewest turns that do not slip, @param p.most most that still settle (common practice)
 */
export function predictWinds(
  p: {
    slackMm: number;
    elasticMm: number;
    postDiameterMm: number;
    roomUnderHoleMm: number;
    gaugeMm: number;
  } & WindLimits,
): Winds {
  const fromSlack = turnsFor(p.slackMm, p.postDiameterMm, p.gaugeMm);
  const fromStretch = turnsFor(p.elasticMm, p.postDiameterMm, p.gaugeMm);
  const turns = fromSlack + fromStretch;
  const stackMm = turns * p.gaugeMm;
  const verdict =
    stackMm > p.roomUnderHoleMm ? 'no-room' : turns < p.least ? 'too-few' : turns > p.most ? 'too-many' : 'good';
  return { fromSlack, fromStretch, turns, coils: Math.ceil(turns - 0.05), stackMm, verdict };
}

/**
 * The range of slack in mm that holds, settles and has room on this post, or null when there is none: the post is too
 * thin or too short for the string.
 */
export function goodSlack(
  p: { elasticMm: number; postDiameterMm: number; roomUnderHoleMm: number; gaugeMm: number } & WindLimits,
): { fromMm: number; toMm: number } | null {
  const most = Math.min(p.most, p.roomUnderHoleMm / p.gaugeMm);
  const slackFor = (turns: number) =>
    Math.max(0, lengthForTurns(turns, p.postDiameterMm, p.gaugeMm) - Math.max(0, p.elasticMm));
  const [fromMm, toMm] = [slackFor(p.least), slackFor(most)];
  // What stretches by more than the most turns is too much however little slack is left.
  const stretchesPast = turnsFor(p.elasticMm, p.postDiameterMm, p.gaugeMm) > most;
  return most < p.least || stretchesPast ? null : { fromMm, toMm };
}

/** What a verdict means and what to do instead, in one sentence. */
export function windAdvice(verdict: Winds['verdict'], good: { fromMm: number; toMm: number } | null): string {
  if (verdict === 'good') return '';
  const instead =
    !good && verdict === 'too-many'
      ? 'leave no slack at all'
      : good
        ? `leave ${Math.ceil(good.fromMm)} to ${Math.floor(good.toMm)} mm`
        : 'self-lock the end';
  switch (verdict) {
    case 'too-few':
      return `Too few winds to hold: ${instead}.`;
    case 'too-many':
      return `Too many winds to settle: ${instead}.`;
    case 'no-room':
      return `More winds than fit below the hole: ${instead}.`;
  }
}

export type Rotation = 'clockwise' | 'anticlockwise' | 'over-the-top';

/**
 * Which way a post turns to tighten, seen from the front with the head up and the post tops facing you, so that the
 * string leaves on the inside of the post. A left-handed instrument mirrors it; rollers and pegboxes wind over the
 * top on both sides.
 */
export function tightens(head: Head, side: Side, handedness: Handedness): Rotation {
  if (head === 'slotted' || head === 'pegbox') return 'over-the-top';
  const onLeft = (side === 'bass') === (handedness === 'right');
  return onLeft ? 'anticlockwise' : 'clockwise';
}

/**
 * Which way the peg's own head turns to tighten, seen from the side it sticks out of: the top of the peg goes away
 * from the nut. Only for heads that wind over the top.
 */
export function pegTurn(side: Side, handedness: Handedness): 'clockwise' | 'anticlockwise' {
  const onLeft = (side === 'bass') === (handedness === 'right');
  return onLeft ? 'anticlockwise' : 'clockwise';
}

/** Where a post stands on the head: x to the right and y up from the nut's middle, seen from the front, in mm. */
export interface PostPlace {
  number: number;
  side: Side;
  x: number;
  y: number;
  /** Where the string leaves the nut. */
  nutX: number;
  /** The side of the post towards the middle of the head: -1 left, 1 right. */
  inside: -1 | 1;
}

/** Half of the head's width between the two rows of posts, in mm, for drawing. */
const HALF_HEAD_MM: Record<Head, number> = {
  'split-sides': 30,
  'fifth-peg': 28,
  'in-line': 0,
  slotted: 22,
  pegbox: 11,
};

/**
 * The posts and string paths of a head as seen from the front, head up: bass at the left on a right-handed
 * instrument, mirrored on a left-handed one.
 */
export function postPlaces(
  build: Pick<Build, 'head' | 'handedness' | 'positions' | 'post'>,
  nutWidthMm: number,
): PostPlace[] {
  const mirror = build.handedness === 'right' ? 1 : -1;
  const onHead = build.positions.filter((p) => p.speakingLengthMm === undefined);
  const fromBass = [...onHead].sort((a, b) => b.number - a.number);
  const slot = fromBass.length > 1 ? (nutWidthMm * 0.84) / (fromBass.length - 1) : 0;
  return fromBass.map((p: Position, index): PostPlace => {
    const left = p.side === 'bass' ? -1 : 1;
    const nutX = (index - (fromBass.length - 1) / 2) * slot;
    // In line all posts stand on the bass side of their strings, which then run straight.
    const x = build.head === 'in-line' ? nutX - build.post.diameterMm / 2 : left * HALF_HEAD_MM[build.head];
    const inside = build.head === 'in-line' ? 1 : left === -1 ? 1 : -1;
    return {
      number: p.number,
      side: p.side,
      x: x * mirror,
      y: p.nutToPostMm,
      nutX: nutX * mirror,
      inside: (inside * mirror) as -1 | 1,
    };
  });
}
