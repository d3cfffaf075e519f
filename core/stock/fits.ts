import { type Build, speakingLengthMm } from '../instruments/build';
import { frequencyHz, midiOf } from '../pitch/notes';
import { HOUSE_METHODS } from '../procedures/method';
import { stringNumbers } from '../procedures/numbers';
import type { StringToFit } from '../procedures/types';
import { breakMargin } from '../strings/strength';
import { tensionN } from '../strings/tension';
import { usualPullN } from '../strings/usual';

export type FitVerdict = 'fits' | 'loose' | 'heavy' | 'short' | 'breaks';

export interface Fit {
  verdict: FitVerdict;
  /** Mean pull of its strings at pitch, in N, and that of a usual set. */
  pullN: number;
  usualN: number;
  /** Millimetres to spare on the string that has least; negative when it does not reach. */
  spareMm: number;
  /** Half of each string reaches. */
  half: boolean;
  says: string;
}

/** A set far below or above the usual pull is played only on purpose. Common practice, no source. */
const LOOSE = 0.75;
const HEAVY = 1.45;
/** Less than this to breaking, in semitones, and it breaks on the way up. Common practice, no source. */
const NARROW_SEMITONES = 0.5;

/**
 * Whether a set suits a build by what its strings do there, whatever its label says: length to the post, pull at pitch
 * against what is usual, and how far each is from breaking.
 *
 * @param strings one for each position it is meant for
 */
export function fitOf(build: Build, strings: readonly StringToFit[], a4Hz = 440): Fit {
  const method = HOUSE_METHODS[build.family];
  let spare = Number.POSITIVE_INFINITY;
  let half = strings.length > 0;
  let pull = 0;
  let narrow: string | null = null;
  for (const string of strings) {
    const position = build.positions.find((p) => p.number === string.number);
    if (!position) continue;
    const { neededLengthMm } = stringNumbers(build, method, position, string, a4Hz);
    spare = Math.min(spare, string.lengthMm - neededLengthMm);
    if (string.lengthMm / 2 < neededLengthMm) half = false;
    const n = tensionN(string.massKgPerM, speakingLengthMm(build, position), frequencyHz(midiOf(position.note), a4Hz));
    pull += n;
    const margin = breakMargin({ tensionN: n, coreMm: string.coreMm, core: string.core });
    if (margin.semitones !== null && margin.semitones < NARROW_SEMITONES) narrow = position.note;
  }
  const count = Math.max(1, strings.length);
  const pullN = pull / count;
  const usualN = usualPullN(build);
  const ratio = pullN / usualN;
  const percent = `tension ${Math.round(Math.abs(ratio - 1) * 100)} % ${ratio < 1 ? 'below' : 'above'} usual`;
  const say = (verdict: FitVerdict, says: string): Fit => ({ verdict, pullN, usualN, spareMm: spare, half, says });
  if (spare < 0) return say('short', `${Math.ceil(-spare)} mm too short`);
  if (narrow) return say('breaks', `${narrow} would be close to breaking`);
  if (ratio < LOOSE) return say('loose', `too slack: ${percent}`);
  if (ratio > HEAVY) return say('heavy', `too heavy: ${percent}`);
  return say(
    'fits',
    `${Math.round(pullN)} N a string, ${percent}${half ? '; half of each string is long enough' : ''}`,
  );
}
