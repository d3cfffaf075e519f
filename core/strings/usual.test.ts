import { describe, expect, it } from 'vitest';
import { FAMILIES, SIZES } from '../instruments/build';
import { defaultBuild } from '../instruments/defaults';
import { composeProcedure } from '../procedures/compose';
import { HOUSE_METHODS } from '../procedures/method';
import { stringNumbers } from '../procedures/numbers';
import { pullOf } from './set';
import { suggestSet, usualSet } from './usual';

describe('a new instrument of any family and size', () => {
  it('has strings that hold their pitch, wind well and can be put on by the house method', () => {
    for (const family of FAMILIES)
      for (const size of SIZES[family]) {
        const build = defaultBuild(family, size);
        const set = usualSet(build);
        for (const p of pullOf(build, set).positions)
          if (p.margin.semitones !== null) expect(p.margin.semitones, `${family} ${size} ${p.note}`).toBeGreaterThan(1);
        const strings = set.map(({ wrap, ...s }) => ({
          ...s,
          name: '',
          wound: wrap !== null,
          half: false,
        }));
        const composed = composeProcedure(build, HOUSE_METHODS[family], strings);
        if (!('procedure' in composed)) throw new Error(`${family} ${size}: ${composed.gaps[0]?.needs}`);
        for (const string of strings) {
          const position = build.positions.find((p) => p.number === string.number) as (typeof build.positions)[number];
          const n = stringNumbers(build, composed.procedure.method, position, string);
          // A house rule that misses by half a turn at most is kept.
          if (n.good) {
            expect(n.winds.turns, `${family} ${size} ${position.note}`).toBeGreaterThan(n.limits.least - 0.51);
            expect(n.winds.turns, `${family} ${size} ${position.note}`).toBeLessThan(n.limits.most + 0.51);
          }
        }
      }
  });

  it('is given the set whose pull is nearest the usual one, and only one that reaches', () => {
    const build = defaultBuild('violin', '4/4');
    const set = (id: string, pullN: number, reaches = true) => ({ id, pullN, reaches });
    expect(suggestSet(build, [set('slack', 120), set('right', 225), set('short', 220, false)])).toBe('right');
    expect(suggestSet(build, [])).toBeNull();
  });
});
