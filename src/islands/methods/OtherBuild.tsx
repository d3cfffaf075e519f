import {
  BRIDGES,
  type Build,
  FINGERBOARDS,
  HEADS,
  PART_NAMES,
  STRING_ENDS,
  TAIL_ENDS,
  TUNERS,
} from '../../../core/instruments/build';
import { defaultBuild } from '../../../core/instruments/defaults';
import { impossibleBecause } from '../../../core/instruments/validity';

const PART_MENUS = {
  head: HEADS,
  tuner: TUNERS,
  tailEnd: TAIL_ENDS,
  bridge: BRIDGES,
  stringEnd: STRING_ENDS,
  fingerboard: FINGERBOARDS,
} as const;

/** The method on another build of the family: only what can be is offered. */
export function OtherBuild({ build, change }: { build: Build; change: (build: Build) => void }) {
  const parts = (Object.keys(PART_MENUS) as (keyof typeof PART_MENUS)[]).map((part) => ({
    part,
    values: PART_MENUS[part].filter((value) => value === build[part] || possible(build, { [part]: value })),
  }));
  return (
    <fieldset className="grid gap-3 grid-cols-2 md:grid-cols-3 mt-2">
      <legend className="sr-only">Shown for this build</legend>
      {parts.map(({ part, values }) => (
        <label key={part} className="grid gap-1">
          <span className="muted text-sm">{PART_LABELS[part]}</span>
          <select
            className="select w-full"
            value={build[part]}
            onChange={(event) =>
              change(defaultBuild(build.family, build.size, fitting(build, { [part]: event.target.value })))
            }
          >
            {values.map((value) => (
              <option key={value} value={value}>
                {PART_NAMES[value]}
              </option>
            ))}
          </select>
        </label>
      ))}
    </fieldset>
  );
}

const PART_LABELS = {
  head: 'Headstock',
  tuner: 'Tuners',
  tailEnd: 'String anchor',
  bridge: 'Bridge',
  stringEnd: 'String end',
  fingerboard: 'Fingerboard',
};

/** What has to follow from a chosen part: rollers from a slotted head, the string end from the tail end. */
function fitting(build: Build, parts: Partial<Build>): Partial<Build> {
  const { head, tuner, tailEnd, bridge, stringEnd, fingerboard } = { ...build, ...parts };
  const now = { head, tuner, tailEnd, bridge, stringEnd, fingerboard };
  const trials: Partial<Build>[] = [
    now,
    { ...now, ...follow(now, ['tuner']) },
    { ...now, ...follow(now, ['stringEnd']) },
    { ...now, ...follow(now, ['bridge']) },
    { ...now, ...follow(now, ['stringEnd', 'bridge']) },
    { ...now, ...follow(now, ['head']) },
  ];
  const works = trials.find((t) => impossibleBecause(defaultBuild(build.family, build.size, strip(t))).length === 0);
  return strip(works ?? now);
}
const strip = (parts: Partial<Build>): Partial<Build> =>
  Object.fromEntries(Object.entries(parts).filter(([, value]) => value !== undefined));
const follow = (parts: Partial<Build>, names: (keyof Build)[]): Partial<Build> =>
  Object.fromEntries(
    names.map((name) => [name, name === 'head' && parts.tuner !== 'roller' ? 'split-sides' : undefined]),
  );
const possible = (build: Build, parts: Partial<Build>): boolean =>
  impossibleBecause(defaultBuild(build.family, build.size, fitting(build, parts))).length === 0;
