import { count, plural } from '../count';
import type { CoreMaterial } from '../strings/materials';

/** What a stretch of one string usually costs in cents. Common practice, no source. */
export function expectedDropCents(
  string: { core: CoreMaterial; wound: boolean },
  round: number,
): { from: number; to: number } {
  // A semitone to a whole tone at first, less on thin plain steel, more on soft cores; each further round a quarter.
  const metal = string.core === 'steel' || string.core === 'rope';
  const first = metal ? (string.wound ? { from: 80, to: 180 } : { from: 40, to: 120 }) : { from: 100, to: 250 };
  const share = 0.25 ** (round - 1);
  return { from: Math.round(first.from * share), to: Math.round(first.to * share) };
}

/** A pull that costs no more than this hardly moves the string any longer. Common practice, no source. */
const HARDLY_MOVES_CENTS = 10;
/** More rounds than this separate winding from core instead of settling it. */
export const MOST_ROUNDS = 4;
/** More than this at one pull is no stretch but a slip, or too hard a pull. */
const TOO_MUCH_CENTS = 320;

export interface StretchAdvice {
  again: boolean;
  kind: 'settled' | 'again' | 'enough' | 'slipping' | 'too-hard';
  says: string;
}

/**
 * Whether another round of stretching is worth it for one string.
 * @param drops what each round cost so far, in cents flat (positive), first round first
 * @param rounds the rounds the house method asks for; stops earlier when a pull hardly moves the string
 */
export function adviseStretch(
  string: { core: CoreMaterial; wound: boolean },
  drops: readonly number[],
  rounds: number,
): StretchAdvice {
  const last = drops.at(-1);
  if (last === undefined) {
    return rounds > 0
      ? { again: true, kind: 'again', says: 'Not stretched yet.' }
      : { again: false, kind: 'enough', says: 'Your method has no stretching: play and retune.' };
  }
  const before = drops.at(-2);
  if (last > TOO_MUCH_CENTS)
    return {
      again: false,
      kind: 'too-hard',
      says: `${Math.round(last)} cents in one stretch: it slipped, or was stretched too hard. Check both ends before you stretch again.`,
    };
  if (before !== undefined && last > 30 && last > before * 1.15)
    return {
      again: false,
      kind: 'slipping',
      says: `It dropped ${Math.round(last)} cents, more than the ${Math.round(before)} of the round before: it is slipping at the tail or the post.`,
    };
  if (last <= HARDLY_MOVES_CENTS)
    return {
      again: false,
      kind: 'settled',
      says: `Only ${Math.round(last)} cents: a stretch hardly moves it now. Stop.`,
    };
  if (drops.length >= MOST_ROUNDS)
    return {
      again: false,
      kind: last > 40 ? 'slipping' : 'enough',
      says:
        last > 40
          ? `Still ${Math.round(last)} cents after ${count(drops.length, 'round')}: this is no longer stretch. Check the tail, then the winds.`
          : `${count(drops.length, 'round')} ${plural(drops.length, 'is', 'are')} enough: more would loosen the winding on its core.`,
    };
  if (drops.length >= Math.max(1, rounds) && last <= expectedDropCents(string, 2).to)
    return { again: false, kind: 'enough', says: `Rounds done: ${drops.length}. The rest settles by itself.` };
  return { again: true, kind: 'again', says: `${Math.round(last)} cents: another round is worth it.` };
}
