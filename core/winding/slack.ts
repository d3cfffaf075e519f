import { plural, sayWinds } from '../count';
import { lengthForTurns } from './post';

/**
 * A house rule for how much slack to leave. Each school is only a way of measuring the same length, and the number
 * means nothing without its kind: "a fret of slack" pulled back grows with the frets, lifted over a fret shrinks.
 * - `first-fret`: so many times the distance from the nut to the first fret, pulled back.
 * - `to-fret`: the distance from the nut to this fret, pulled back; between two frets, that part of the way.
 * - `post-spacings`: so many post spacings beyond the post.
 * - `length`: a length in mm by ruler, by hand's breadth or by the inch.
 * - `lift`: the string is lifted `heightMm` over a fret: the outer pair over the first of `frets`, the next pair over
 *   the second, and so on. Nearer the nut gives more slack, which makes up for the posts' different distances.
 * - `turns`: what gives so many turns of this post.
 * - `none`: pulled through taut, as on a locking post.
 * - `whole`: all the string there is.
 */
export type SlackRule =
  | { kind: 'first-fret'; times: number }
  | { kind: 'to-fret'; fret: number }
  | { kind: 'post-spacings'; spacings: number }
  | { kind: 'length'; mm: number }
  | { kind: 'lift'; heightMm: number; frets: readonly number[] }
  | { kind: 'turns'; turns: number }
  | { kind: 'none' }
  | { kind: 'whole' };

/** Where a rule is applied. Lengths in mm. */
export interface SlackPlace {
  scaleMm: number;
  postSpacingMm: number;
  postDiameterMm: number;
  gaugeMm: number;
  /** 0 for the outer strings, 1 for the next pair inwards, and so on. */
  pairFromOutside: number;
  /** What is left of the string beyond the post once tail, speaking length and nut to post are used. */
  beyondPostMm: number;
}

/** A hand's breadth across the palm and a lifted hand's height, in mm. Common practice, no source. */
export const HAND_MM = 85;

/** The schools in use, with how they are said, for choosing and comparing. Common practice, no source. */
export const SLACK_SCHOOLS: readonly { id: string; name: string; rule: SlackRule }[] = [
  { id: 'fret', name: 'Pull back one fret', rule: { kind: 'first-fret', times: 1 } },
  { id: 'fret-and-half', name: 'Pull back a fret and a half', rule: { kind: 'first-fret', times: 1.5 } },
  { id: 'spacing', name: 'One post spacing past the post', rule: { kind: 'post-spacings', spacings: 1 } },
  {
    id: 'spacing-and-half',
    name: 'One and a half post spacings past the post',
    rule: { kind: 'post-spacings', spacings: 1.5 },
  },
  { id: 'two-spacings', name: 'Two post spacings past the post', rule: { kind: 'post-spacings', spacings: 2 } },
  { id: 'ruler', name: '60 mm by ruler', rule: { kind: 'length', mm: 60 } },
  { id: 'hand', name: 'A hand’s breadth', rule: { kind: 'length', mm: HAND_MM } },
  { id: 'inch', name: 'Pull back an inch', rule: { kind: 'length', mm: 25.4 } },
  {
    id: 'lift',
    name: 'Lift a hand’s height over frets 5, 3, 1',
    rule: { kind: 'lift', heightMm: HAND_MM, frets: [5, 3, 1] },
  },
];

/** Distance in mm from the nut to fret `n` of equal temperament: L (1 − 2^(−n/12)). */
export function fretDistanceMm(scaleMm: number, fret: number): number {
  return scaleMm * (1 - 2 ** (-fret / 12));
}

/** Extra length in mm of a string of length L lifted by h at x from the nut: √(x²+h²) + √((L−x)²+h²) − L. */
export function liftMm(scaleMm: number, xMm: number, heightMm: number): number {
  return Math.hypot(xMm, heightMm) + Math.hypot(scaleMm - xMm, heightMm) - scaleMm;
}

/** The slack in mm that a rule means at this place. */
export function slackMm(rule: SlackRule, on: SlackPlace): number {
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
    case 'lift': {
      const fret = rule.frets[Math.min(on.pairFromOutside, rule.frets.length - 1)] ?? 1;
      return liftMm(on.scaleMm, fretDistanceMm(on.scaleMm, fret), rule.heightMm);
    }
    case 'turns':
      return lengthForTurns(rule.turns, on.postDiameterMm, on.gaugeMm);
    case 'none':
      return 0;
    case 'whole':
      return Math.max(0, on.beyondPostMm);
  }
}

/** A slack in mm as a multiple of the nut-to-first-fret distance, for saying "about one fret". */
export function slackInFrets(slack: number, scaleMm: number): number {
  return slack / fretDistanceMm(scaleMm, 1);
}

const times = (n: number) => (n === 1 ? 'one' : n === 2 ? 'two' : n === 1.5 ? 'one and a half' : `${n}`);

/** A slack rule in words, with its kind. */
export function sayRule(rule: SlackRule): string {
  switch (rule.kind) {
    case 'first-fret':
      return rule.times === 0.5
        ? 'half a fret (half of nut to first fret)'
        : `${times(rule.times)} ${rule.times <= 1 ? 'fret' : 'frets'} (nut to first fret)`;
    case 'to-fret':
      return `the distance from nut to fret ${rule.fret}`;
    case 'post-spacings':
      return `${times(rule.spacings)} post ${plural(rule.spacings, 'spacing')} past the post`;
    case 'length':
      return rule.mm === 25.4 ? 'an inch' : rule.mm === HAND_MM ? 'a hand’s breadth' : `${rule.mm} mm by ruler`;
    case 'lift':
      return `lifted ${rule.heightMm} mm over fret ${rule.frets.join(', ')}, outer strings first`;
    case 'turns':
      return `enough for ${sayWinds(rule.turns)}`;
    case 'none':
      return 'no slack: pulled tight';
    case 'whole':
      return 'the whole string';
  }
}
