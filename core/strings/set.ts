import { sayList } from '../count';
import { type Build, type Position, speakingLengthMm } from '../instruments/build';
import { type Temperament, targetsHz } from '../pitch/tunings';
import type { CoreMaterial } from './materials';
import { type BreakMargin, breakMargin } from './strength';
import { tensionN } from './tension';

/** A string as far as its pull needs it. */
export interface SetString {
  number: number;
  gaugeMm: number;
  coreMm: number;
  core: CoreMaterial;
  massKgPerM: number;
}

export interface PositionPull {
  number: number;
  note: string;
  frequencyHz: number;
  tensionN: number;
  margin: BreakMargin;
}

export interface SetPull {
  positions: PositionPull[];
  totalN: number;
  /** Pull of the lower half of the strings and of the upper half, in N. */
  bassN: number;
  trebleN: number;
  /** Largest over smallest pull: 1 is an even set. */
  spread: number;
}

// Asked for every sentence that names a string, so each list of positions is looked at once.
const halves = new WeakMap<readonly Pick<Position, 'number'>[], ReadonlySet<number>>();

/** Positions of the lower half of the strings, by place in the order, not by the side of their post. */
export function bassHalf(positions: readonly Pick<Position, 'number'>[]): ReadonlySet<number> {
  const seen = halves.get(positions);
  if (seen) return seen;
  const fromBass = [...positions].sort((a, b) => b.number - a.number);
  const half = new Set(fromBass.slice(0, Math.ceil(fromBass.length / 2)).map((p) => p.number));
  halves.set(positions, half);
  return half;
}

/**
 * Pull of every string of a set at pitch on this instrument, in N, with its margin to breaking. Positions without a
 * string are left out.
 */
export function pullOf(
  build: Pick<Build, 'positions' | 'scaleMm'>,
  strings: readonly SetString[],
  tuning: { a4Hz: number; temperament: Temperament } = { a4Hz: 440, temperament: 'equal' },
): SetPull {
  const targets = targetsHz(build.positions, tuning);
  const byNumber = new Map(strings.map((s) => [s.number, s]));
  const bass = bassHalf(build.positions);
  const positions = build.positions.flatMap((p): PositionPull[] => {
    const string = byNumber.get(p.number);
    if (!string) return [];
    const frequencyHz = targets.get(p.number) as number;
    const tension = tensionN(string.massKgPerM, speakingLengthMm(build, p), frequencyHz);
    return [
      {
        number: p.number,
        note: p.note,
        frequencyHz,
        tensionN: tension,
        margin: breakMargin({ tensionN: tension, coreMm: string.coreMm, core: string.core }),
      },
    ];
  });
  const sum = (list: PositionPull[]) => list.reduce((total, p) => total + p.tensionN, 0);
  const pulls = positions.map((p) => p.tensionN);
  return {
    positions,
    totalN: sum(positions),
    bassN: sum(positions.filter((p) => bass.has(p.number))),
    trebleN: sum(positions.filter((p) => !bass.has(p.number))),
    spread: pulls.length ? Math.max(...pulls) / Math.min(...pulls) : 1,
  };
}

export interface SetChange {
  changeN: number;
  /** Of what was on before, in percent. */
  changePercent: number;
  positions: { number: number; note: string; beforeN: number | null; afterN: number | null; gaugeChanged: boolean }[];
  /** "Total 71 N more, 11 %: check relief and intonation." */
  says: string;
  checks: ('relief' | 'octave' | 'bridge' | 'slots')[];
}

/** Total change in percent beyond which the set-up is looked at. Common practice, no source. */
const WORTH_A_LOOK_PERCENT = 4;

/**
 * A new set against the one that was on: the change of pull, and what has to be checked because of it. The octave is
 * checked wherever a gauge changed, the bridge wherever it floats and the pull changed.
 */
export function compareSets(
  build: Pick<Build, 'positions' | 'scaleMm' | 'bridge'>,
  before: readonly SetString[],
  after: readonly SetString[],
  tuning?: { a4Hz: number; temperament: Temperament },
): SetChange {
  const old = pullOf(build, before, tuning);
  const now = pullOf(build, after, tuning);
  const gauge = (list: readonly SetString[], number: number) => list.find((s) => s.number === number)?.gaugeMm ?? null;
  const pull = (list: SetPull, number: number) => list.positions.find((p) => p.number === number)?.tensionN ?? null;
  const positions = build.positions.map((p) => {
    const [from, to] = [gauge(before, p.number), gauge(after, p.number)];
    return {
      number: p.number,
      note: p.note,
      beforeN: pull(old, p.number),
      afterN: pull(now, p.number),
      gaugeChanged: from !== null && to !== null && Math.abs(from - to) > 0.005,
    };
  });
  const changeN = now.totalN - old.totalN;
  const changePercent = old.totalN > 0 ? (changeN / old.totalN) * 100 : 0;
  const gaugeChanged = positions.some((p) => p.gaugeChanged);
  const heavier = positions.some(
    (p) => p.gaugeChanged && (gauge(after, p.number) ?? 0) > (gauge(before, p.number) ?? 0),
  );
  const checks: SetChange['checks'] = [];
  const much = Math.abs(changePercent) >= WORTH_A_LOOK_PERCENT;
  if (build.bridge === 'floating' && much) checks.push('bridge');
  if (build.bridge === 'fixed' && much) checks.push('relief');
  if (gaugeChanged || much) checks.push('octave');
  if (heavier) checks.push('slots');
  const words = { relief: 'relief', octave: 'intonation', bridge: 'the bridge position', slots: 'the nut slots' };
  const size = `Total tension ${Math.abs(changeN).toFixed(0)} N ${changeN < 0 ? 'less' : 'more'} (${Math.abs(changePercent).toFixed(0)} %)`;
  const says =
    old.positions.length === 0
      ? 'There are no earlier strings on record to compare with.'
      : Math.abs(changeN) < 0.5 && !gaugeChanged
        ? 'Same tension as before: nothing to adjust.'
        : checks.length
          ? `${size}: check ${sayList(checks.map((c) => words[c]))}.`
          : `${size}: nothing to adjust.`;
  return { changeN, changePercent, positions, says, checks };
}

/** Strings taken from several sets, and the mirror image that is left of them. */
export interface Hybrid<Id> {
  takes: { setId: Id; number: number }[];
  leaves: { setId: Id; number: number }[];
}

/**
 * A hybrid set: from each set the positions named. What is left over of the sets is stock with a future use.
 * @throws RangeError when a position is taken twice, left without a string, or not in its set
 */
export function hybridOf<Id>(
  positions: readonly number[],
  parts: readonly { setId: Id; numbers: readonly number[]; take: readonly number[] }[],
): Hybrid<Id> {
  const takes = parts.flatMap((p) => p.take.map((number) => ({ setId: p.setId, number })));
  const taken = takes.map((t) => t.number);
  for (const part of parts)
    for (const number of part.take)
      if (!part.numbers.includes(number)) throw new RangeError(`That set has no string ${number}.`);
  for (const number of positions) {
    const count = taken.filter((n) => n === number).length;
    if (count !== 1)
      throw new RangeError(
        count === 0
          ? `String ${number} is in none of the sets chosen: choose each string from one set.`
          : `String ${number} is chosen more than once: choose each string from one set.`,
      );
  }
  const leaves = parts.flatMap((p) =>
    p.numbers.filter((number) => !p.take.includes(number)).map((number) => ({ setId: p.setId, number })),
  );
  return { takes, leaves };
}

/** Two strings without marks, and how to tell them apart by hand. */
export function tellApart<S extends Pick<SetString, 'gaugeMm' | 'massKgPerM'>>(
  a: S,
  b: S,
): { thinner: S; thicker: S; how: string; sure: boolean } | null {
  if (Math.abs(a.gaugeMm - b.gaugeMm) < 0.002) return null;
  const [thinner, thicker] = a.gaugeMm < b.gaugeMm ? [a, b] : [b, a];
  // Bending stiffness goes with the fourth power of the diameter.
  const stiffer = (thicker.gaugeMm / thinner.gaugeMm) ** 4;
  const sure = stiffer >= 1.5;
  return {
    thinner,
    thicker,
    sure,
    how: sure
      ? `Hold both at the same length: the one that bends more easily is the thinner; the thicker is about ${stiffer.toFixed(1)} times as stiff.`
      : `They bend almost alike (one is ${stiffer.toFixed(1)} times as stiff): measure them, ${thinner.gaugeMm.toFixed(3)} mm against ${thicker.gaugeMm.toFixed(3)} mm.`,
  };
}
