import { expect, it } from 'vitest';
import { FAMILIES, SIZES } from '../instruments/build';
import { defaultBuild } from '../instruments/defaults';
import { readGauges, stringsSaid } from './gauges';
import { massKgPerM } from './mass';
import { pullOf } from './set';
import { thouOf } from './tension';
import { usualPullN } from './usual';
import { usualSetsFor } from './usualSets';

it('every kind has usual sets: a string for each position, of a tension its instrument is built for, well below breaking', () => {
  const codes = new Set<string>();
  for (const family of FAMILIES)
    for (const size of SIZES[family]) {
      const build = defaultBuild(family, size);
      const sets = usualSetsFor(family, size);
      expect(sets.length, family).toBeGreaterThan(0);
      for (const set of sets) {
        const what = `${set.name} on ${family} ${size}`;
        expect(set.strings.map((s) => s.number).sort(), what).toEqual(build.positions.map((p) => p.number).sort());
        const pull = pullOf(
          build,
          set.strings.map((s) => ({ ...s, massKgPerM: massKgPerM(s) })),
        );
        const usual = usualPullN(build) * build.positions.length;
        expect(pull.totalN / usual, what).toBeGreaterThan(0.4);
        expect(pull.totalN / usual, what).toBeLessThan(1.9);
        for (const p of pull.positions)
          if (p.margin.semitones !== null) expect(p.margin.semitones, `${what} ${p.note}`).toBeGreaterThan(0);
        // A code is one set, whichever size asks for it.
        if (set.size !== null) expect(codes.has(set.sku), what).toBe(false);
        codes.add(set.sku);
      }
    }
});

it('reads gauges as they are said, thinnest or thickest first, and makes the same strings of them', () => {
  expect(readGauges('12, 16 24w-32w/42W 53w')).toEqual([
    { thou: 12, wound: null },
    { thou: 16, wound: null },
    { thou: 24, wound: true },
    { thou: 32, wound: true },
    { thou: 42, wound: true },
    { thou: 53, wound: true },
  ]);
  const up = stringsSaid({ family: 'steel-acoustic', size: '4/4', gauges: readGauges('12 16 24 32 42 53') });
  const down = stringsSaid({ family: 'steel-acoustic', size: '4/4', gauges: readGauges('53 42 32 24 16 12') });
  expect(down).toEqual(up);
  expect(up.map((s) => [s.number, Math.round(thouOf(s.gaugeMm)), s.wrap !== null])).toEqual([
    [1, 12, false],
    [2, 16, false],
    [3, 24, true],
    [4, 32, true],
    [5, 42, true],
    [6, 53, true],
  ]);
});
