import type { Family } from '../instruments/build';
import { defaultBuild } from '../instruments/defaults';
import { CORES_OF } from '../instruments/validity';
import type { CoreMaterial, Material } from './materials';
import { mmOfThou } from './tension';
import { coreShareOf } from './usual';
import { type UsualSet, usualSetsFor } from './usualSets';

/** A gauge in thousandths of an inch as it is said; `wound` is null where nobody says. */
export interface SaidGauge {
  thou: number;
  wound: boolean | null;
}

/** "12 16 24w 32w 42w 53w": a w after a number means wound, a p plain. */
export const readGauges = (text: string): SaidGauge[] =>
  [...text.matchAll(/(\d{1,3}(?:\.\d{1,2})?)\s*([wp])?/gi)].map((m) => ({
    thou: Number(m[1]),
    wound: m[2] ? m[2].toLowerCase() === 'w' : null,
  }));

/** Strings thicker than this are wound where nobody says, in mm: plain ones are not sold so thick. */
const THICKEST_PLAIN_MM = { metal: 0.5, soft: 1.1 };

/**
 * The strings of a set from what is said of it; what is not said is as usual for its kind.
 * @param p.gauges thinnest first or thickest first, one for each string; of a string alone one
 */
export function stringsSaid(p: {
  family: Family;
  size: string;
  gauges: readonly SaidGauge[];
  core?: CoreMaterial | undefined;
  wrap?: Material | undefined;
  lengthMm?: number | null | undefined;
}): UsualSet['strings'] {
  const build = defaultBuild(p.family, p.size);
  const core = p.core ?? (CORES_OF[p.family][0] as CoreMaterial);
  const usual = usualSetsFor(p.family, p.size)[0] as UsualSet;
  const thick = core === 'steel' || core === 'rope' ? THICKEST_PLAIN_MM.metal : THICKEST_PLAIN_MM.soft;
  const rising = (p.gauges[0]?.thou ?? 0) <= (p.gauges.at(-1)?.thou ?? 0);
  const thinFirst = rising ? p.gauges : [...p.gauges].reverse();
  return thinFirst.map((g, i) => {
    const gaugeMm = mmOfThou(g.thou);
    const wound = g.wound ?? gaugeMm > thick;
    return {
      number: i + 1,
      gaugeMm,
      coreMm: wound ? gaugeMm * coreShareOf(core) : gaugeMm,
      core,
      wrap: wound ? (p.wrap ?? usual.strings.find((s) => s.wrap)?.wrap ?? 'nickel') : null,
      massKgPerM: null,
      lengthMm: p.lengthMm ?? usual.strings[0]?.lengthMm ?? build.scaleMm * 1.4 + 250,
    };
  });
}
