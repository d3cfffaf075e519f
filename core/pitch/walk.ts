import type { Reading } from './estimate';
import { verdictOf } from './steady';

/** What a pass through the strings is for: each near its note, or each in tune. */
export type WalkGoal = 'near' | 'tune';

/** A pass through the strings, led by what is heard. */
export interface Walk {
  goal: WalkGoal;
  /** In the order in which they are asked for. */
  order: readonly number[];
  /** Those that have arrived in this pass. */
  arrived: readonly number[];
  /** 1 is the first pass. */
  pass: number;
  passes: number;
  /** The string that stands where it should, and since when in ms; null: none. */
  held: { number: number; since: number } | null;
}

/** Near pitch, in cents: a string comes up from below, and will be stretched before it is tuned. Common practice, no source. */
export const NEAR_CENTS = { from: -100, to: 15 } as const;
/** So long it has to stand there before it counts, in ms: a string that is only passing by does not. */
export const HOLD_MS = { near: 500, tune: 700 } as const;
/** An arrived string that is heard so far off again has been pulled flat by its neighbours: it is asked for again. */
const LOST_CENTS = 12;

export const beginWalk = (goal: WalkGoal, order: readonly number[], passes = goal === 'tune' ? 2 : 1): Walk => ({
  goal,
  order,
  arrived: [],
  pass: 1,
  passes,
  held: null,
});

/** The string that is asked for now; null when the walk is through. */
export const askedFor = (walk: Walk): number | null => walk.order.find((n) => !walk.arrived.includes(n)) ?? null;

const isThere = (goal: WalkGoal, { cents, hz }: Pick<Reading, 'cents' | 'hz'>): boolean =>
  goal === 'tune' ? verdictOf({ cents, hz }) === 'in-tune' : cents >= NEAR_CENTS.from && cents <= NEAR_CENTS.to;

/**
 * The walk after one more reading. Any string of the walk may arrive, in whatever order it is played; where two strings
 * could be meant, none does. While strings are tuned finely one that has gone off again is asked for again.
 *
 * @param reading what is heard now; null: nothing
 * @param at the time of the reading in ms
 */
export function walkOn(walk: Walk, reading: Pick<Reading, 'number' | 'cents' | 'hz' | 'or'> | null, at: number): Walk {
  if (!reading || reading.or || !walk.order.includes(reading.number)) return walk.held ? { ...walk, held: null } : walk;
  const { number } = reading;
  if (!isThere(walk.goal, reading)) {
    const lost =
      walk.goal === 'tune' && walk.arrived.includes(number) && Math.abs(reading.cents) > LOST_CENTS
        ? walk.arrived.filter((n) => n !== number)
        : walk.arrived;
    return lost === walk.arrived && !walk.held ? walk : { ...walk, arrived: lost, held: null };
  }
  if (walk.arrived.includes(number)) return walk.held ? { ...walk, held: null } : walk;
  if (walk.held?.number !== number) return { ...walk, held: { number, since: at } };
  if (at - walk.held.since < HOLD_MS[walk.goal]) return walk;
  const arrived = [...walk.arrived, number];
  const through = walk.order.every((n) => arrived.includes(n));
  return through && walk.pass < walk.passes
    ? { ...walk, arrived: [], pass: walk.pass + 1, held: null }
    : { ...walk, arrived, held: null };
}
