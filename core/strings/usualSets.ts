import { describeBuild, type Family, type StringEnd } from '../instruments/build';
import { defaultBuild } from '../instruments/defaults';
import { CORES_OF } from '../instruments/validity';
import { type CoreMaterial, MATERIAL_NAMES, type Material } from './materials';
import { mmOfThou } from './tension';
import { coreShareOf, usualSet } from './usual';

/** A set as they are sold for a family and size, under no maker's name: to begin with, and to be renamed. */
export interface UsualSet {
  /** Its code, unlike any other's. */
  sku: string;
  name: string;
  family: Family;
  /** The size it is for; null: any of its family that it reaches. */
  size: string | null;
  end: StringEnd;
  strings: {
    number: number;
    gaugeMm: number;
    coreMm: number;
    core: CoreMaterial;
    wrap: Material | null;
    /** Where it follows from pitch and tension instead of a gauge. */
    massKgPerM: number | null;
    lengthMm: number;
  }[];
}

type Gauge = readonly [thou: number, wound?: 'w'];
interface Known {
  name: string;
  wrap: Material;
  core?: CoreMaterial;
  /** By the number of the string, 1 first. */
  gauges: readonly Gauge[];
}

/** Gauges as fretted instruments are commonly strung, in thousandths of an inch. Common practice, from memory. */
const KNOWN: Partial<Record<Family, readonly Known[]>> = {
  'steel-acoustic': [
    { name: 'light 12–53', wrap: 'phosphor-bronze', gauges: [[12], [16], [24, 'w'], [32, 'w'], [42, 'w'], [53, 'w']] },
    {
      name: 'extra light 11–52',
      wrap: 'phosphor-bronze',
      gauges: [[11], [15], [22, 'w'], [32, 'w'], [42, 'w'], [52, 'w']],
    },
    { name: 'medium 13–56', wrap: 'phosphor-bronze', gauges: [[13], [17], [26, 'w'], [35, 'w'], [45, 'w'], [56, 'w']] },
  ],
  'twelve-string': [
    {
      name: 'light 10–47',
      wrap: 'phosphor-bronze',
      gauges: [[10], [10], [14], [14], [23, 'w'], [9], [30, 'w'], [12], [39, 'w'], [18], [47, 'w'], [27, 'w']],
    },
  ],
  classical: [
    {
      name: 'normal tension',
      wrap: 'copper',
      core: 'nylon',
      gauges: [[28], [32], [40], [29, 'w'], [35, 'w'], [43, 'w']],
    },
  ],
  electric: [
    { name: 'regular 10–46', wrap: 'nickel-plated-steel', gauges: [[10], [13], [17], [26, 'w'], [36, 'w'], [46, 'w']] },
    { name: 'light 9–42', wrap: 'nickel-plated-steel', gauges: [[9], [11], [16], [24, 'w'], [32, 'w'], [42, 'w']] },
    { name: 'medium 11–49', wrap: 'nickel-plated-steel', gauges: [[11], [14], [18], [28, 'w'], [38, 'w'], [49, 'w']] },
  ],
  'bass-guitar': [
    {
      name: 'medium 45–105',
      wrap: 'nickel-plated-steel',
      gauges: [
        [45, 'w'],
        [65, 'w'],
        [85, 'w'],
        [105, 'w'],
      ],
    },
    {
      name: 'light 40–100',
      wrap: 'nickel-plated-steel',
      gauges: [
        [40, 'w'],
        [60, 'w'],
        [80, 'w'],
        [100, 'w'],
      ],
    },
  ],
  banjo: [
    { name: 'light 9–20', wrap: 'nickel', gauges: [[9], [10], [13], [20, 'w'], [9]] },
    { name: 'medium 10–23', wrap: 'nickel', gauges: [[10], [12], [16], [23, 'w'], [10]] },
  ],
  mandolin: [
    {
      name: 'light 10–38',
      wrap: 'phosphor-bronze',
      gauges: [[10], [10], [14], [14], [24, 'w'], [24, 'w'], [38, 'w'], [38, 'w']],
    },
    {
      name: 'medium 11–40',
      wrap: 'phosphor-bronze',
      gauges: [[11], [11], [15], [15], [26, 'w'], [26, 'w'], [40, 'w'], [40, 'w']],
    },
  ],
};

/** Cores that sets of the other families are offered with: their gauges follow from length, pitch and usual tension. */
const CORES: Partial<Record<Family, readonly CoreMaterial[]>> = {
  ukulele: ['nylon', 'fluorocarbon'],
  violin: ['steel', 'composite'],
  viola: ['steel', 'composite'],
  cello: ['steel', 'rope'],
  'double-bass': ['rope', 'steel'],
};

const codeOf = (text: string): string =>
  text
    .replaceAll('–', '-')
    .replaceAll('/', '')
    .replace(/[^A-Za-z0-9-]+/g, '-')
    .toUpperCase();

/** Short names of families for codes. */
const SHORT: Record<Family, string> = {
  'steel-acoustic': 'AC',
  'twelve-string': 'TW',
  classical: 'CL',
  electric: 'EL',
  'bass-guitar': 'BG',
  ukulele: 'UK',
  banjo: 'BJ',
  mandolin: 'MA',
  violin: 'VN',
  viola: 'VA',
  cello: 'VC',
  'double-bass': 'DB',
};

/** Sets that are usual for a family and size, the most usual first. */
export function usualSetsFor(family: Family, size: string): UsualSet[] {
  const build = defaultBuild(family, size);
  const known = KNOWN[family];
  if (known)
    return known.map((k): UsualSet => {
      const core = k.core ?? (CORES_OF[family][0] as CoreMaterial);
      return {
        sku: `${SHORT[family]}-${codeOf(k.name)}`.slice(0, 24),
        name: `${describeBuild(family, '4/4')}, ${k.name}`,
        family,
        // Gauges like these are sold for all sizes of their family.
        size: null,
        end: defaultBuild(family, '4/4').stringEnd,
        strings: build.positions.map((p) => {
          const [thou, wound] = k.gauges[p.number - 1] as Gauge;
          const gaugeMm = mmOfThou(thou);
          return {
            number: p.number,
            gaugeMm,
            coreMm: wound ? gaugeMm * coreShareOf(core) : gaugeMm,
            core,
            wrap: wound ? k.wrap : null,
            massKgPerM: null,
            lengthMm: defaultBuild(family, '4/4').scaleMm * 1.4 + 250,
          };
        }),
      };
    });
  const cores = CORES[family] ?? [CORES_OF[family][0] as CoreMaterial];
  return cores.map(
    (core): UsualSet => ({
      sku: `${SHORT[family]}-${codeOf(size)}-${codeOf(MATERIAL_NAMES[core])}`.slice(0, 24),
      name: `${describeBuild(family, size)}, ${MATERIAL_NAMES[core]}${family === 'ukulele' ? '' : ' core'}`,
      family,
      size,
      end: build.stringEnd,
      strings: usualSet(build, core),
    }),
  );
}
