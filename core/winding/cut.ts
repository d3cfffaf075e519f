import { halves, plural } from '../count';
/** What goes through the hole before the first turn, in mm (common practice). */
export const THROUGH_HOLE_MM = 12;

/** What a string goes through from its tail to its trimmed end. Lengths in mm. */
export interface StringPath {
  tailMm: number;
  speakingLengthMm: number;
  nutToPostMm: number;
  slackMm: number;
  postDiameterMm: number;
}

/**
 * The length in mm of string one position takes up, tail to trimmed end: what the tail needs, the speaking length,
 * nut to post, the slack that becomes winds, the post hole and what sticks out of it.
 */
export function neededLengthMm(p: StringPath): number {
  return p.tailMm + p.speakingLengthMm + p.nutToPostMm + p.slackMm + p.postDiameterMm + THROUGH_HOLE_MM;
}

/** True when a string of `lengthMm`, cut in the middle, serves two positions that need `neededMm` each. */
export function halfReaches(lengthMm: number, neededMm: number): boolean {
  return lengthMm / 2 >= neededMm;
}

export interface Reach {
  neededMm: number;
  /** What is left beyond what is needed; negative when short. */
  spareMm: number;
  verdict: 'reaches' | 'tight' | 'short' | 'winding-ends-early';
  says: string;
}

/** Less than this to spare and one slip of the hand makes the string useless. Common practice, no source. */
const TIGHT_MM = 20;

/**
 * Is this string long enough for this head? A wound string with a bare or thin end must carry its full winding at
 * least from the tail to past the nut, whatever its total length.
 * @param p.windingMm length from the ball to where the full winding ends; null when it runs to the tip
 */
export function reachOf(p: StringPath & { lengthMm: number; windingMm: number | null }): Reach {
  const needed = neededLengthMm(p);
  const spare = p.lengthMm - needed;
  const untilNut = p.tailMm + p.speakingLengthMm;
  if (p.windingMm !== null && p.windingMm < untilNut) {
    return {
      neededMm: needed,
      spareMm: spare,
      verdict: 'winding-ends-early',
      says: `The winding stops ${Math.round(untilNut - p.windingMm)} mm short of the nut: this string is made for a shorter scale.`,
    };
  }
  if (spare < 0)
    return { neededMm: needed, spareMm: spare, verdict: 'short', says: `${Math.ceil(-spare)} mm too short.` };
  return spare < TIGHT_MM
    ? { neededMm: needed, spareMm: spare, verdict: 'tight', says: `Only ${Math.floor(spare)} mm to spare.` }
    : { neededMm: needed, spareMm: spare, verdict: 'reaches', says: `${Math.floor(spare)} mm to spare.` };
}

export interface CutPoint {
  /** Past the middle of its own post, along the string, in mm. */
  pastPostMm: number;
  /** The same in post spacings, for measuring along the head. */
  spacings: number;
  says: string;
}

/**
 * Where a string is cut before it is wound, measured along the head past its own post: the slack that becomes winds
 * and what goes through the hole. Wound strings are bent first and cut beyond the bend.
 */
export function cutPoint(p: { slackMm: number; postDiameterMm: number; postSpacingMm: number }): CutPoint {
  const pastPostMm = p.slackMm + p.postDiameterMm / 2 + THROUGH_HOLE_MM;
  const spacings = pastPostMm / p.postSpacingMm;
  return {
    pastPostMm,
    spacings,
    says: `${pastPostMm.toFixed(0)} mm past its post, about ${halves(spacings)} post ${plural(Math.round(spacings * 2) / 2, 'spacing')}`,
  };
}
