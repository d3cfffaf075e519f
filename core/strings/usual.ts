import { type Build, type Family, SIZES, speakingLengthMm } from '../instruments/build';
import { defaultBuild } from '../instruments/defaults';
import { CORES_OF } from '../instruments/validity';
import { frequencyHz, midiOf } from '../pitch/notes';
import { type CoreMaterial, coreDensityKgM3, type Material } from './materials';

/** A usual pull of one string of a family in its full size, in N. Common practice, no source. */
const PULL_N: Record<Family, number> = {
  'steel-acoustic': 110,
  'twelve-string': 88,
  classical: 65,
  electric: 75,
  'bass-guitar': 180,
  ukulele: 40,
  banjo: 52,
  mandolin: 85,
  violin: 55,
  viola: 55,
  cello: 135,
  'double-bass': 270,
};

/** What a wound string weighs for its diameter, wrap and air together, in kg/m³. Common practice, no source. */
const WOUND_DENSITY = 7000;
/** A wound string’s core over its gauge: soft cores carry less for their size. Common practice, no source. */
const CORE_SHARE = { metal: 0.48, soft: 0.68 };
/** Plain strings thicker than this are sold wound, in mm. */
const THICKEST_PLAIN_MM = { metal: 0.5, soft: 1.1 };

export interface UsualString {
  number: number;
  gaugeMm: number;
  coreMm: number;
  core: CoreMaterial;
  wrap: Material | null;
  massKgPerM: number;
  /** As sold: long enough for the scale, its tail and its post. */
  lengthMm: number;
}

/** The core of a usual wound string as a share of its gauge. */
export const coreShareOf = (core: CoreMaterial): number =>
  core === 'steel' || core === 'rope' ? CORE_SHARE.metal : CORE_SHARE.soft;

const fullScaleMm = (family: Family): number => defaultBuild(family, SIZES[family][0] as string).scaleMm;

/**
 * A usual pull of one string in N. Small sizes are strung heavier than the strings of a full size would pull there: with
 * the length, not with its square. Common practice, no source.
 */
export function usualPullN(build: Pick<Build, 'family' | 'scaleMm'>): number {
  return PULL_N[build.family] * Math.min(1.3, build.scaleMm / fullScaleMm(build.family));
}

/**
 * Strings that would suit an instrument of which no set is known yet: as heavy as a usual pull asks at its pitch and
 * length (T = μ (2 L f)², Mersenne), wound where a plain one would be too thick.
 */
export function usualSet(
  build: Pick<Build, 'family' | 'scaleMm' | 'positions'>,
  core: CoreMaterial = CORES_OF[build.family][0] as CoreMaterial,
): UsualString[] {
  // Nothing is known of them, so no more is asked than the strings of a full size give at this length.
  const pull = PULL_N[build.family] * Math.min(1.3, (build.scaleMm / fullScaleMm(build.family)) ** 2);
  const metal = core === 'steel' || core === 'rope';
  return build.positions.map((p) => {
    const f = frequencyHz(midiOf(p.note));
    const massKgPerM = pull / ((2 * speakingLengthMm(build, p) * f) / 1000) ** 2;
    const across = (density: number) => 1000 * Math.sqrt((4 * massKgPerM) / (Math.PI * density));
    const plainMm = across(coreDensityKgM3(core));
    const wound = plainMm > (metal ? THICKEST_PLAIN_MM.metal : THICKEST_PLAIN_MM.soft);
    const gaugeMm = wound ? across(WOUND_DENSITY) : plainMm;
    return {
      number: p.number,
      gaugeMm,
      coreMm: wound ? gaugeMm * coreShareOf(core) : gaugeMm,
      core,
      wrap: wound ? (metal ? 'nickel' : 'copper') : null,
      massKgPerM,
      lengthMm: build.scaleMm * 1.4 + 250,
    };
  });
}

/** The set of a catalogue that suits an instrument best: its pull nearest the usual one, every string long enough. */
export function suggestSet<Id>(
  build: Pick<Build, 'family' | 'scaleMm' | 'positions'>,
  sets: readonly { id: Id; pullN: number; reaches: boolean }[],
): Id | null {
  const usual = usualPullN(build) * build.positions.length;
  const fitting = sets.filter((s) => s.reaches);
  const [best] = [...fitting].sort((a, b) => Math.abs(Math.log(a.pullN / usual)) - Math.abs(Math.log(b.pullN / usual)));
  return best?.id ?? null;
}
