/** What goes through the hole before the first turn, in mm (common practice). */
export const THROUGH_HOLE_MM = 12;

/**
 * The length in mm of string one position takes up, tail to trimmed end: what the tail needs, the speaking length,
 * nut to post, the slack that becomes winds, the post hole and what sticks out of it.
 */
export function neededLengthMm(p: {
  tailMm: number;
  speakingLengthMm: number;
  nutToPostMm: number;
  slackMm: number;
  postDiameterMm: number;
}): number {
  return p.tailMm + p.speakingLengthMm + p.nutToPostMm + p.slackMm + p.postDiameterMm + THROUGH_HOLE_MM;
}

/** True when a string of `lengthMm`, cut in the middle, serves two positions that need `neededMm` each. */
export function halfReaches(lengthMm: number, neededMm: number): boolean {
  return lengthMm / 2 >= neededMm;
}
