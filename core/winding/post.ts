import type { Handedness, Head, Side } from '../instruments/build';

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
export function predictWinds(p: {
  slackMm: number;
  elasticMm: number;
  postDiameterMm: number;
  roomUnderHoleMm: number;
  gaugeMm: number;
  least: number;
  most: number;
}): Winds {
  const fromSlack = turnsFor(p.slackMm, p.postDiameterMm, p.gaugeMm);
  const fromStretch = turnsFor(p.elasticMm, p.postDiameterMm, p.gaugeMm);
  const turns = fromSlack + fromStretch;
  const stackMm = turns * p.gaugeMm;
  const verdict =
    stackMm > p.roomUnderHoleMm ? 'no-room' : turns < p.least ? 'too-few' : turns > p.most ? 'too-many' : 'good';
  return { fromSlack, fromStretch, turns, coils: Math.ceil(turns - 0.05), stackMm, verdict };
}

export type Rotation = 'clockwise' | 'counter-clockwise' | 'over-the-top';

/**
 * Which way a post turns to tighten, seen from the front with the head up and the post tops facing you, so that the
 * string leaves on the inside of the post. A left-handed instrument mirrors it; rollers and pegboxes wind over the
 * top on both sides.
 */
export function tightens(head: Head, side: Side, handedness: Handedness): Rotation {
  if (head === 'slotted' || head === 'pegbox') return 'over-the-top';
  const onLeft = (side === 'bass') === (handedness === 'right');
  return onLeft ? 'counter-clockwise' : 'clockwise';
}
