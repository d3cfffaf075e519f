/**
 * A house rule for how much slack to leave. Each school is only a way of measuring the same length, and the number
 * means nothing without its kind.
 * - `first-fret`: so many times the distance from the nut to the first fret, pulled back.
 * - `to-fret`: the distance from the nut to this fret, pulled back; between two frets, that part of the way.
 * - `post-spacings`: so many post spacings beyond the post.
 * - `length`: a length in mm by ruler.
 */
export type SlackRule =
  | { kind: 'first-fret'; times: number }
  | { kind: 'to-fret'; fret: number }
  | { kind: 'post-spacings'; spacings: number }
  | { kind: 'length'; mm: number };

/** Distance in mm from the nut to fret `n` of equal temperament: L (1 − 2^(−n/12)). */
export function fretDistanceMm(scaleMm: number, fret: number): number {
  return scaleMm * (1 - 2 ** (-fret / 12));
}

/** The slack in mm that a rule means on this instrument. */
export function slackMm(rule: SlackRule, on: { scaleMm: number; postSpacingMm: number }): number {
  switch (rule.kind) {
    case 'first-fret':
      return rule.times * fretDistanceMm(on.scaleMm, 1);
    case 'to-fret': {
      const below = Math.floor(rule.fret);
      const from = fretDistanceMm(on.scaleMm, below);
      const to = fretDistanceMm(on.scaleMm, below + 1);
      return from + (rule.fret - below) * (to - from);
    }
    case 'post-spacings':
      return rule.spacings * on.postSpacingMm;
    case 'length':
      return rule.mm;
  }
}

/** A slack in mm as a multiple of the nut-to-first-fret distance, for saying "about one fret". */
export function slackInFrets(slack: number, scaleMm: number): number {
  return slack / fretDistanceMm(scaleMm, 1);
}
