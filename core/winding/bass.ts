import type { Build, Position } from '../instruments/build';
import type { SlackRule } from './slack';

/** How one string of a bass guitar under a string tree is wound, and why. */
export interface TreeWinding {
  rule: SlackRule;
  why: string;
  /** Bend before cutting, as on a round core a cut without a bend lets the winding come loose. */
  bendFirst: boolean;
}

/**
 * A bass guitar with a string tree: the tree holds the two thinnest down and the lowest dives by itself, so the one
 * between has the least pull down at the nut. It gets its whole length, so that the winds go far down; too few give an
 * open-string rattle that looks like a bad nut. The lowest is too long: it is marked at the post of the D string or a little beyond, bent there and cut.
 * Common practice, no source.
 */
export function treeWinding(build: Pick<Build, 'positions'>, position: Pick<Position, 'number'>): TreeWinding {
  const lowest = Math.max(...build.positions.map((p) => p.number));
  if (position.number === lowest) {
    return {
      rule: { kind: 'post-spacings', spacings: 2 },
      why: 'Too long to wind on whole: mark it about two posts further along, at the D string’s post or just beyond, bend it 90° there, then cut beyond the bend.',
      bendFirst: true,
    };
  }
  return {
    rule: { kind: 'whole' },
    why:
      position.number === lowest - 1
        ? 'No string tree holds it down at the nut, so wind on its whole length, far down the post.'
        : 'Wind on its whole length, down the post, so it leaves low towards the string tree.',
    bendFirst: false,
  };
}

/** The order under a string tree: the string with the least pull down first, then the rest from the bass. */
export function treeOrder<P extends Pick<Position, 'number'>>(
  build: Pick<Build, 'positions'>,
  positions: readonly P[],
): P[] {
  const lowest = Math.max(...build.positions.map((p) => p.number));
  const rank = (p: P) => (p.number === lowest - 1 ? 0 : p.number === lowest ? 1 : 2);
  return [...positions].sort((a, b) => rank(a) - rank(b) || b.number - a.number);
}

/**
 * The order on a double bass, in pairs: the two strings whose pegs are nearest the nut first, of each pair the outer
 * string first, and last the string that has to cross over the others. Common practice, no source.
 */
export function pairsFromNut<P extends Pick<Position, 'number' | 'nutToPostMm'>>(
  build: Pick<Build, 'positions'>,
  positions: readonly P[],
): P[] {
  const numbers = build.positions.map((p) => p.number);
  const outer = (p: Pick<Position, 'number'>) => p.number === Math.max(...numbers) || p.number === Math.min(...numbers);
  const byPeg = [...build.positions].sort((a, b) => a.nutToPostMm - b.nutToPostMm || b.number - a.number);
  const rank = new Map<number, number>();
  for (let i = 0; i < byPeg.length; i += 2)
    for (const p of byPeg.slice(i, i + 2).sort((a, b) => Number(outer(b)) - Number(outer(a))))
      rank.set(p.number, rank.size);
  return [...positions].sort((a, b) => (rank.get(a.number) ?? 0) - (rank.get(b.number) ?? 0));
}

/**
 * Turns away from the pegbox wall before the string crosses over and runs back to the middle: about three for the outer
 * strings, almost the whole string for the inner ones. Common practice, no source.
 * @param turns all the turns this string makes on its peg
 */
export function crossing(
  build: Pick<Build, 'positions'>,
  position: Pick<Position, 'number'>,
  turns: number,
): { turnsAway: number; nearlyWhole: boolean } {
  const numbers = build.positions.map((p) => p.number);
  const outer = position.number === Math.max(...numbers) || position.number === Math.min(...numbers);
  return {
    turnsAway: outer ? Math.min(3, Math.floor(turns)) : Math.max(1, Math.floor(turns) - 1),
    nearlyWhole: !outer,
  };
}
