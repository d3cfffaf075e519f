import {
  BRIDGES,
  type Build,
  EXTRAS,
  type Extra,
  FAMILIES,
  FINGERBOARDS,
  HEADS,
  SIZES,
  STRING_ENDS,
  speakingLengthMm,
  TAIL_ENDS,
  TUNERS,
} from '../../core/instruments/build';
import { defaultBuild } from '../../core/instruments/defaults';
import { CORES_OF, impossibleBecause } from '../../core/instruments/validity';
import { frequencyHz, midiOf } from '../../core/pitch/notes';
import type { StringToFit } from '../../core/procedures/types';
import { type CoreMaterial, coreDensityKgM3 } from '../../core/strings/materials';

/** Every combination of attribute values that can be on one instrument, each family in its usual size. */
export function* everyBuild(handed: readonly Build['handedness'][] = ['right', 'left']): Generator<Build> {
  for (const family of FAMILIES)
    for (const head of HEADS)
      for (const tuner of TUNERS)
        for (const tailEnd of TAIL_ENDS)
          for (const bridge of BRIDGES)
            for (const stringEnd of STRING_ENDS)
              for (const fingerboard of FINGERBOARDS) {
                const parts = { head, tuner, tailEnd, bridge, stringEnd, fingerboard };
                const needed: Extra[] = EXTRAS.filter(
                  (e) =>
                    (e === 'pins' && tailEnd === 'pin-bridge') ||
                    (e === 'fine-tuners' && tailEnd === 'tailpiece-fine-tuners'),
                );
                if (impossibleBecause({ family, ...parts, extras: needed }).length > 0) continue;
                const possible = EXTRAS.filter(
                  (e) =>
                    !needed.includes(e) && impossibleBecause({ family, ...parts, extras: [...needed, e] }).length === 0,
                );
                for (let bits = 0; bits < 1 << possible.length; bits++) {
                  const extras = [...needed, ...possible.filter((_, i) => bits & (1 << i))];
                  for (const handedness of handed)
                    yield defaultBuild(family, SIZES[family][0] as string, { ...parts, extras, handedness });
                }
              }
}

/** A usual pull in N for a string of a family, for making strings up. */
const PULL_N: Record<Build['family'], number> = {
  'steel-acoustic': 80,
  'twelve-string': 70,
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

/** Strings that could be on a build: as heavy as a usual pull asks, wound where a plain one would be too thick. */
export function stringsFor(
  build: Build,
  core: CoreMaterial = CORES_OF[build.family][0] as CoreMaterial,
): StringToFit[] {
  return build.positions.map((p) => {
    const f = frequencyHz(midiOf(p.note));
    const mass = PULL_N[build.family] / ((2 * speakingLengthMm(build, p) * f) / 1000) ** 2;
    const plainMm = 1000 * Math.sqrt((4 * mass) / (Math.PI * coreDensityKgM3(core)));
    const wound = plainMm > (core === 'steel' ? 0.5 : 1.1);
    const gaugeMm = wound ? 1000 * Math.sqrt((4 * mass) / (Math.PI * 7000)) : plainMm;
    return {
      number: p.number,
      name: `invented ${p.note}`,
      gaugeMm,
      coreMm: wound ? gaugeMm * 0.4 : gaugeMm,
      core,
      wound,
      massKgPerM: mass,
      lengthMm: build.scaleMm * 1.4 + 250,
      half: false,
    };
  });
}
