import type { Build, Family } from '../../../core/instruments/build';
import { lowerFirst } from '../../../core/sentence';
import { massKgPerM } from '../../../core/strings/mass';
import type { CoreMaterial, Material } from '../../../core/strings/materials';
import { pullOf, tellApart } from '../../../core/strings/set';
import { suggestSet, usualSet } from '../../../core/strings/usual';

/** A string of the catalogue or of one's own, as far as the calculator needs it. */
export interface KnownString {
  name: string;
  gaugeMm: number;
  coreMm: number;
  core: CoreMaterial;
  wrap: Material | null;
  massKgPerM: number;
  lengthMm: number;
}

export interface KnownSet {
  id: string;
  name: string;
  family: Family;
  strings: Record<number, KnownString>;
}

export const NEWTON_PER_LBF = 4.4482216;
/** A string nearer to breaking than this, in semitones, is said to be. */
export const LITTLE_MARGIN = 3;
export const round = (value: number, digits: number): number => Number(value.toFixed(digits));

export type KnownStrings = Record<number, KnownString>;

/** Sets that have a string for each position of a build. */
export const fittingSets = (build: Build, sets: readonly KnownSet[]): KnownSet[] =>
  sets.filter((s) => s.family === build.family && build.positions.every((p) => s.strings[p.number]));

/** What to begin with on a build: the set that suits it best, else strings as a usual pull asks. */
export function beginWith(build: Build, sets: readonly KnownSet[]): KnownStrings {
  const suits = suggestSet(
    build,
    fittingSets(build, sets).map((s) => ({
      id: s.strings,
      pullN: pullOf(
        build,
        build.positions.map((p) => ({ number: p.number, ...(s.strings[p.number] as KnownString) })),
      ).totalN,
      reaches: true,
    })),
  );
  if (suits) return suits;
  return Object.fromEntries(usualSet(build).map((s) => [s.number, { ...s, name: 'usual for this instrument' }]));
}

/** A string changed by hand: its mass is worked out anew and its name says that it is one's own. */
export function own(
  s: KnownString,
  change: Partial<Pick<KnownString, 'gaugeMm' | 'coreMm' | 'core' | 'wrap'>>,
): KnownString {
  const next = { ...s, ...change };
  const plain = next.wrap === null;
  const coreMm = plain
    ? next.gaugeMm
    : s.wrap === null || next.coreMm >= next.gaugeMm
      ? next.gaugeMm * 0.4
      : next.coreMm;
  return {
    ...next,
    coreMm,
    name: 'own',
    massKgPerM: massKgPerM({ gaugeMm: next.gaugeMm, coreMm, core: next.core, wrap: next.wrap }),
  };
}

/** How to tell the two thinnest plain strings apart without marks. */
export function thinPair(build: Build, strings: KnownStrings): string | null {
  const plain = build.positions
    .flatMap((p) =>
      strings[p.number] && strings[p.number]?.wrap === null ? [{ p, ...(strings[p.number] as KnownString) }] : [],
    )
    .sort((a, b) => a.gaugeMm - b.gaugeMm);
  const [a, b] = plain;
  const apart = a && b ? tellApart(a, b) : null;
  return apart && a && b ? `Telling ${a.p.note} from ${b.p.note} if unmarked: ${lowerFirst(apart.how)}` : null;
}
