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
  TAIL_ENDS,
  TUNERS,
} from '../../core/instruments/build';
import { defaultBuild } from '../../core/instruments/defaults';
import { impossibleBecause } from '../../core/instruments/validity';
import { TAIL_END } from '../../core/parts/tailEnds';
import type { StringToFit } from '../../core/procedures/types';
import type { CoreMaterial } from '../../core/strings/materials';
import { usualSet } from '../../core/strings/usual';

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
                const needed: Extra[] = [...TAIL_END[tailEnd].brings];
                if (impossibleBecause({ family, ...parts, extras: needed }).length > 0) continue;
                const possible = EXTRAS.filter(
                  (e) =>
                    !needed.includes(e) &&
                    (e === 'cover-slides'
                      ? TAIL_END[tailEnd].mayHave.includes(e)
                      : impossibleBecause({ family, ...parts, extras: [...needed, e] }).length === 0),
                );
                for (let bits = 0; bits < 1 << possible.length; bits++) {
                  const extras = [...needed, ...possible.filter((_, i) => bits & (1 << i))];
                  if (impossibleBecause({ family, ...parts, extras }).length > 0) continue;
                  for (const handedness of handed)
                    yield defaultBuild(family, SIZES[family][0] as string, { ...parts, extras, handedness });
                }
              }
}

/** Strings that could be on a build: the usual ones for it. */
export function stringsFor(build: Build, core?: CoreMaterial): StringToFit[] {
  return usualSet(build, core).map(({ wrap, ...string }) => ({
    ...string,
    name: `invented ${build.positions.find((p) => p.number === string.number)?.note}`,
    wound: wrap !== null,
    half: false,
  }));
}
