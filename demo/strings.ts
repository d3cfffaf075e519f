import { type Family, SIZES, speakingLengthMm } from '../core/instruments/build';
import { defaultBuild } from '../core/instruments/defaults';
import { frequencyHz, midiOf } from '../core/pitch/notes';
import type { CoreMaterial, Material } from '../core/strings/materials';
import { mmOfThou } from '../core/strings/tension';
import type { NewSingle } from '../server/stock/products';

/** The string lines of the scenario: invented names, makers and prices. */
export interface DemoSet {
  sku: string;
  name: string;
  family: Family;
  sizes: readonly string[];
  priceCents: number;
  items: { number: number; single: NewSingle }[];
  /** How many arrive in one delivery. */
  perDelivery: number;
}

type Spec = Pick<NewSingle, 'gaugeMm' | 'coreMm' | 'core' | 'wrap' | 'massKgPerM'>;

const plain = (thou: number, core: CoreMaterial = 'steel'): Spec => {
  const gaugeMm = mmOfThou(thou);
  return { gaugeMm, coreMm: gaugeMm, core, wrap: null, massKgPerM: null };
};
const wound = (thou: number, coreThou: number, wrap: Material, core: CoreMaterial = 'steel'): Spec => ({
  gaugeMm: mmOfThou(thou),
  coreMm: mmOfThou(coreThou),
  core,
  wrap,
  massKgPerM: null,
});

interface Line {
  sku: string;
  name: string;
  family: Family;
  sizes: readonly string[];
  priceCents: number;
  lengthMm: number;
  stringEnd: NewSingle['stringEnd'];
  perDelivery: number;
  doubleLength?: boolean;
  /** From the highest position number down, as the instrument is tuned. */
  strings: Spec[];
}

const acoustic = (e1: number, b: number, g: number, d: number, a: number, e6: number): Spec[] => [
  wound(e6, 18, 'phosphor-bronze'),
  wound(a, 16, 'phosphor-bronze'),
  wound(d, 14, 'phosphor-bronze'),
  wound(g, 12, 'phosphor-bronze'),
  plain(b),
  plain(e1),
];
const electric = (e1: number, b: number, g: number, d: number, a: number, e6: number): Spec[] => [
  wound(e6, 17, 'nickel'),
  wound(a, 15, 'nickel'),
  wound(d, 13, 'nickel'),
  plain(g),
  plain(b),
  plain(e1),
];
const classical = (k: number): Spec[] => [
  wound(43 * k, 22, 'copper', 'nylon'),
  wound(35 * k, 19, 'copper', 'nylon'),
  wound(29 * k, 17, 'copper', 'nylon'),
  plain(40 * k, 'nylon'),
  plain(32 * k, 'nylon'),
  plain(28 * k, 'nylon'),
];

const FRETTED: Line[] = [
  {
    sku: 'FUL-1253',
    name: 'Fulmar light 12–53',
    family: 'steel-acoustic',
    sizes: ['4/4'],
    priceCents: 940,
    lengthMm: 1030,
    stringEnd: 'ball',
    perDelivery: 6,
    strings: acoustic(12, 16, 24, 32, 42, 53),
  },
  {
    sku: 'FUL-1047',
    name: 'Fulmar extra light 10–47',
    family: 'steel-acoustic',
    sizes: ['3/4', '1/2'],
    priceCents: 940,
    lengthMm: 1030,
    stringEnd: 'ball',
    perDelivery: 4,
    strings: acoustic(10, 14, 23, 30, 39, 47),
  },
  {
    sku: 'FUL-T1047',
    name: 'Fulmar twelve 10–47',
    family: 'twelve-string',
    sizes: ['4/4'],
    priceCents: 1580,
    lengthMm: 1030,
    stringEnd: 'ball',
    perDelivery: 2,
    strings: [
      wound(27, 13, 'phosphor-bronze'),
      wound(47, 18, 'phosphor-bronze'),
      plain(18),
      wound(39, 16, 'phosphor-bronze'),
      plain(12),
      wound(30, 14, 'phosphor-bronze'),
      plain(8),
      wound(23, 12, 'phosphor-bronze'),
      plain(14),
      plain(14),
      plain(10),
      plain(10),
    ],
  },
  {
    sku: 'TYS-N',
    name: 'Tystie nylon normal',
    family: 'classical',
    sizes: ['4/4', '7/8'],
    priceCents: 720,
    lengthMm: 1000,
    stringEnd: 'plain',
    perDelivery: 6,
    strings: classical(1),
  },
  {
    sku: 'TYS-S',
    name: 'Tystie nylon short scale',
    family: 'classical',
    sizes: ['3/4', '1/2', '1/4'],
    priceCents: 720,
    lengthMm: 900,
    stringEnd: 'plain',
    perDelivery: 6,
    strings: classical(1.1),
  },
  {
    sku: 'SOL-1046',
    name: 'Solan 10–46',
    family: 'electric',
    sizes: ['4/4'],
    priceCents: 620,
    lengthMm: 1050,
    stringEnd: 'ball',
    perDelivery: 6,
    strings: electric(10, 13, 17, 26, 36, 46),
  },
  {
    sku: 'SOL-0942',
    name: 'Solan light 9–42',
    family: 'electric',
    sizes: ['3/4'],
    priceCents: 620,
    lengthMm: 1050,
    stringEnd: 'ball',
    perDelivery: 4,
    strings: electric(9, 11, 16, 24, 32, 42),
  },
  {
    sku: 'SOL-B45',
    name: 'Solan bass 45–105',
    family: 'bass-guitar',
    sizes: ['4/4', '3/4'],
    priceCents: 2260,
    lengthMm: 1250,
    stringEnd: 'ball',
    perDelivery: 2,
    strings: [wound(105, 32, 'nickel'), wound(85, 28, 'nickel'), wound(65, 23, 'nickel'), wound(45, 18, 'nickel')],
  },
  {
    sku: 'KIT-F',
    name: 'Kittock fluorocarbon, double length',
    family: 'ukulele',
    sizes: ['soprano', 'concert', 'tenor'],
    priceCents: 880,
    lengthMm: 1200,
    stringEnd: 'plain',
    perDelivery: 6,
    doubleLength: true,
    strings: [
      plain(22, 'fluorocarbon'),
      plain(32, 'fluorocarbon'),
      plain(26, 'fluorocarbon'),
      plain(20, 'fluorocarbon'),
    ],
  },
  {
    sku: 'KIT-B',
    name: 'Kittock baritone',
    family: 'ukulele',
    sizes: ['baritone'],
    priceCents: 990,
    lengthMm: 800,
    stringEnd: 'plain',
    perDelivery: 2,
    strings: [
      wound(30, 20, 'copper', 'nylon'),
      wound(26, 18, 'copper', 'nylon'),
      plain(32, 'nylon'),
      plain(26, 'nylon'),
    ],
  },
  {
    sku: 'WHI-B',
    name: 'Whimbrel banjo light',
    family: 'banjo',
    sizes: ['4/4'],
    priceCents: 560,
    lengthMm: 920,
    stringEnd: 'loop',
    perDelivery: 3,
    strings: [plain(9.5), wound(20, 10, 'nickel'), plain(13), plain(11), plain(9.5)],
  },
  {
    sku: 'WHI-M',
    name: 'Whimbrel mandolin light',
    family: 'mandolin',
    sizes: ['4/4'],
    priceCents: 780,
    lengthMm: 620,
    stringEnd: 'loop',
    perDelivery: 3,
    strings: [
      wound(38, 15, 'phosphor-bronze'),
      wound(38, 15, 'phosphor-bronze'),
      wound(24, 12, 'phosphor-bronze'),
      wound(24, 12, 'phosphor-bronze'),
      plain(14),
      plain(14),
      plain(10),
      plain(10),
    ],
  },
];

/** Usual pulls at pitch in N, low to high, of full-size bowed strings; smaller sizes carry a little less. */
const BOWED: {
  family: Family;
  sku: string;
  name: string;
  core: CoreMaterial;
  wrap: Material;
  pulls: number[];
  gauges: number[];
  price: number;
  lengthMm: number;
}[] = [
  {
    family: 'violin',
    sku: 'GAN-V',
    name: 'Ganzie violin',
    core: 'composite',
    wrap: 'aluminium',
    pulls: [44, 46, 55, 78],
    gauges: [0.82, 0.8, 0.68, 0.27],
    price: 2450,
    lengthMm: 560,
  },
  {
    family: 'viola',
    sku: 'GAN-A',
    name: 'Ganzie viola',
    core: 'composite',
    wrap: 'silver',
    pulls: [52, 50, 52, 60],
    gauges: [1.15, 0.98, 0.85, 0.66],
    price: 3900,
    lengthMm: 640,
  },
  {
    family: 'cello',
    sku: 'GAN-C',
    name: 'Ganzie cello, rope core',
    core: 'rope',
    wrap: 'tungsten',
    pulls: [128, 130, 135, 165],
    gauges: [1.6, 1.35, 1.1, 0.8],
    price: 8200,
    lengthMm: 1120,
  },
  {
    family: 'double-bass',
    sku: 'GAN-D',
    name: 'Ganzie double bass, rope core',
    core: 'rope',
    wrap: 'nickel',
    pulls: [270, 275, 280, 285],
    gauges: [2.6, 2.2, 1.75, 1.35],
    price: 14800,
    lengthMm: 1750,
  },
];

function bowedLines(): Line[] {
  return BOWED.flatMap((b) =>
    SIZES[b.family].map((size): Line => {
      const build = defaultBuild(b.family, size);
      const smaller = build.scaleMm / defaultBuild(b.family, SIZES[b.family][0] as string).scaleMm;
      const strings = build.positions.map((position, index): Spec => {
        const gaugeMm = (b.gauges[index] as number) * smaller ** 0.3;
        const steelE = b.family === 'violin' && position.number === 1;
        const pull = (b.pulls[index] as number) * smaller;
        const massKgPerM =
          pull / ((2 * speakingLengthMm(build, position) * frequencyHz(midiOf(position.note))) / 1000) ** 2;
        return {
          gaugeMm,
          coreMm: steelE ? gaugeMm : gaugeMm * 0.6,
          core: steelE ? 'steel' : b.core,
          wrap: steelE ? null : b.wrap,
          massKgPerM,
        };
      });
      return {
        sku: `${b.sku}-${size.replace(/\W/g, '')}`,
        name: `${b.name} ${size}`,
        family: b.family,
        sizes: [size],
        priceCents: Math.round(b.price * (0.6 + 0.4 * smaller)),
        lengthMm: Math.round(b.lengthMm * smaller),
        stringEnd: 'ball',
        perDelivery: b.family === 'violin' ? 3 : 1,
        strings,
      };
    }),
  );
}

function setOf(line: Line): DemoSet {
  const notes = defaultBuild(line.family, line.sizes[0] as string).positions;
  return {
    sku: line.sku,
    name: line.name,
    family: line.family,
    sizes: line.sizes,
    priceCents: line.priceCents,
    perDelivery: line.perDelivery,
    items: line.strings.map((spec, index) => {
      const position = notes[index] as (typeof notes)[number];
      // The two strings of a unison course are one product.
      const same = notes.findIndex(
        (other, i) => other.note === position.note && line.strings[i]?.gaugeMm === spec.gaugeMm,
      );
      return {
        number: position.number,
        single: {
          ...spec,
          sku: `${line.sku}-${notes[same]?.number}`,
          name: `${line.name}, ${position.note}`,
          family: line.family,
          lengthMm: line.lengthMm,
          stringEnd: line.stringEnd,
          doubleLength: line.doubleLength ?? false,
          priceCents: Math.round((line.priceCents * 1.3) / line.strings.length),
        },
      };
    }),
  };
}

export const DEMO_SETS: DemoSet[] = [...FRETTED, ...bowedLines()].map(setOf);

/** The house set for a family and size. */
export function houseSetFor(family: Family, size: string): DemoSet {
  const set = DEMO_SETS.find((s) => s.family === family && s.sizes.includes(size));
  if (!set) throw new RangeError(`The scenario has no set for ${family} ${size}.`);
  return set;
}
