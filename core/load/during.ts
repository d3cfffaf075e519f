import type { Build, Position } from '../instruments/build';
import { bassHalf } from '../strings/set';

/** The pull on the instrument after one event of the work. */
export interface LoadStep {
  /** What just happened. */
  event: 'start' | 'off' | 'on';
  /** Positions it happened to. */
  numbers: number[];
  totalN: number;
  bassN: number;
  trebleN: number;
  /** Of the pull with all strings at pitch. */
  share: number;
}

export interface Load {
  steps: LoadStep[];
  /** Smallest share on the way, and the worst lean to one side as a share of the full pull. */
  leastShare: number;
  worstLean: number;
}

/** A floating bridge needs at least this share of the full pull to stay where it stands. Common practice, no source. */
export const SAFE_SHARE = 0.5;
/** The wide feet of a double bass stand on two strings of four, as shops work. Common practice, no source. */
const SAFE_SHARE_BASS = 0.4;

/**
 * The tension left on the instrument while strings are changed: groups are slackened together and brought near pitch
 * one by one, in the given order.
 * @param pulls N at pitch by position; the strings before and after are taken to pull alike
 */
export function loadDuring(
  positions: readonly Pick<Position, 'number'>[],
  pulls: ReadonlyMap<number, number>,
  groups: readonly (readonly number[])[],
): Load {
  const bass = bassHalf(positions);
  const on = new Set(positions.map((p) => p.number));
  const full = [...on].reduce((sum, n) => sum + (pulls.get(n) ?? 0), 0);
  const stand = (event: LoadStep['event'], numbers: number[]): LoadStep => {
    let bassN = 0;
    let trebleN = 0;
    for (const n of on) {
      if (bass.has(n)) bassN += pulls.get(n) ?? 0;
      else trebleN += pulls.get(n) ?? 0;
    }
    const totalN = bassN + trebleN;
    return { event, numbers, totalN, bassN, trebleN, share: full > 0 ? totalN / full : 0 };
  };
  const steps = [stand('start', [])];
  for (const group of groups) {
    for (const n of group) on.delete(n);
    steps.push(stand('off', [...group]));
    for (const n of group) {
      on.add(n);
      steps.push(stand('on', [n]));
    }
  }
  const atRest = steps[0] as LoadStep;
  const lean = (s: LoadStep) =>
    Math.abs(s.bassN - s.trebleN - (atRest.bassN - atRest.trebleN)) / Math.max(full, Number.EPSILON);
  return {
    steps,
    leastShare: Math.min(...steps.map((s) => s.share)),
    worstLean: Math.max(...steps.map(lean)),
  };
}

/**
 * Why a way of working must not be used on this instrument, or null when it may: a floating bridge that loses too much
 * of its pull moves or falls, and may drop the soundpost.
 */
export function refuseLoad(build: Pick<Build, 'bridge' | 'family'>, load: Load): string | null {
  const safe = build.family === 'double-bass' ? SAFE_SHARE_BASS : SAFE_SHARE;
  if (build.bridge === 'fixed' || load.leastShare >= safe) return null;
  const worst = load.steps.find((s) => s.share === load.leastShare) as LoadStep;
  const left = Math.round(load.leastShare * 100);
  const off =
    worst.numbers.length === 1 ? `string ${worst.numbers[0]} alone` : `${worst.numbers.length} strings at once`;
  const instead =
    worst.numbers.length === 1
      ? 'In this set one string carries more tension than all the others together: check its gauges before you use it here.'
      : 'Change one string at a time.';
  return `Taking off ${off} would leave ${left} % of the tension. Only the strings hold this bridge: below ${Math.round(safe * 100)} % it can fall, and any soundpost with it. ${instead}`;
}
