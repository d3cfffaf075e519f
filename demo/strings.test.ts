import { describe, expect, it } from 'vitest';
import { FAMILIES, SIZES, speakingLengthMm } from '../core/instruments/build';
import { defaultBuild } from '../core/instruments/defaults';
import { frequencyHz, midiOf } from '../core/pitch/notes';
import { HOUSE_METHODS } from '../core/procedures/method';
import { stringNumbers } from '../core/procedures/numbers';
import { massKgPerM } from '../core/strings/mass';
import { stressMpa, tensionN } from '../core/strings/tension';
import { stringToFit } from '../server/fleet/fit';
import { DEMO_SETS, houseSetFor } from './strings';

const cases = FAMILIES.flatMap((family) =>
  SIZES[family].map((size) => ({ family, size, build: defaultBuild(family, size), set: houseSetFor(family, size) })),
);

describe('the invented string lines', () => {
  it('have a string for every position of every family and size', () => {
    for (const c of cases) {
      expect(c.set.items.map((i) => i.number)).toEqual(c.build.positions.map((p) => p.number));
    }
    expect(new Set(DEMO_SETS.map((s) => s.sku)).size).toBe(DEMO_SETS.length);
  });

  it('pull as real strings of their kind do: none slack, none beyond what it can carry', () => {
    for (const c of cases) {
      for (const position of c.build.positions) {
        const single = c.set.items.find((i) => i.number === position.number)?.single;
        if (!single) throw new Error('no string');
        const pull = tensionN(
          massKgPerM(single),
          speakingLengthMm(c.build, position),
          frequencyHz(midiOf(position.note)),
        );
        const name = `${c.family} ${c.size} ${position.note}: ${pull.toFixed(0)} N`;
        expect(pull, name).toBeGreaterThan(18);
        expect(pull, name).toBeLessThan(300);
        // Plain music wire: Sut ≈ 2211 d^−0.145 MPa (ASTM A228 as tabulated in machine-design textbooks).
        if (!single.wrap && single.core === 'steel')
          expect(stressMpa(pull, single.gaugeMm), name).toBeLessThan(2211 * single.gaugeMm ** -0.145 * 0.85);
      }
    }
  });

  it('are long enough for the instruments they are for', () => {
    for (const c of cases) {
      for (const position of c.build.positions) {
        const single = c.set.items.find((i) => i.number === position.number)?.single;
        if (!single) throw new Error('no string');
        const product = {
          ...single,
          id: 1,
          massKgPerM: massKgPerM(single),
          coated: false,
          hexCore: false,
          flatWound: false,
          windingMm: null,
        };
        const { neededLengthMm } = stringNumbers(
          c.build,
          HOUSE_METHODS[c.family],
          position,
          stringToFit(position, product, false),
        );
        expect(single.lengthMm, `${c.family} ${c.size} ${position.note}`).toBeGreaterThanOrEqual(neededLengthMm);
      }
    }
  });
});
