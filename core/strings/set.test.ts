import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { defaultBuild } from '../instruments/defaults';
import { massKgPerM } from './mass';
import { bassHalf, compareSets, hybridOf, pullOf, type SetString, tellApart } from './set';
import { breakMargin, slotAdvice, slotVerdict } from './strength';
import { mmOfThou, tensionN } from './tension';

const electric = defaultBuild('electric', '4/4');
const plain = (number: number, thou: number): SetString => {
  const gaugeMm = mmOfThou(thou);
  return {
    number,
    gaugeMm,
    coreMm: gaugeMm,
    core: 'steel',
    massKgPerM: massKgPerM({ gaugeMm, coreMm: gaugeMm, core: 'steel', wrap: null }),
  };
};
const set = (...thous: number[]) => thous.map((t, i) => plain(6 - i, t));

describe('the pull of a set', () => {
  it('grows with the square of the pitch', () => {
    fc.assert(
      fc.property(
        fc.double({ min: 1e-4, max: 0.02, noNaN: true }),
        fc.double({ min: 20, max: 700, noNaN: true }),
        fc.double({ min: 0.5, max: 2, noNaN: true }),
        (mass, f, k) => {
          expect(tensionN(mass, 648, f * k) / tensionN(mass, 648, f)).toBeCloseTo(k * k, 9);
        },
      ),
    );
  });

  it('adds up over the set and splits into bass and treble half, in line too', () => {
    const pull = pullOf(electric, set(46, 36, 26, 17, 13, 10));
    expect(pull.bassN + pull.trebleN).toBeCloseTo(pull.totalN, 9);
    expect([...bassHalf(electric.positions)]).toEqual([6, 5, 4]);
    expect(pull.positions.map((p) => p.number)).toEqual([6, 5, 4, 3, 2, 1]);
  });

  it('counts the short fifth of a banjo at its own length', () => {
    const banjo = defaultBuild('banjo', '4/4');
    const [fifth] = pullOf(banjo, [plain(5, 10)]).positions;
    const alone = tensionN(plain(5, 10).massKgPerM, 500, fifth?.frequencyHz ?? 0);
    expect(fifth?.tensionN).toBeCloseTo(alone, 9);
  });
});

describe('a change of set', () => {
  it('says how much more it pulls and what to check', () => {
    const change = compareSets(electric, set(42, 32, 24, 16, 11, 9), set(46, 36, 26, 17, 13, 10));
    expect(change.says).toMatch(/^Total tension \d+ N more \(\d+ %\): check relief, intonation and the nut slots\.$/);
    expect(compareSets(electric, set(46, 36, 26, 17, 13, 10), set(46, 36, 26, 17, 13, 10)).says).toBe(
      'Same tension as before: nothing to adjust.',
    );
    expect(compareSets(electric, [], set(46, 36, 26, 17, 13, 10)).says).toContain('no earlier strings on record');
    const floating = { ...electric, bridge: 'floating' as const };
    expect(compareSets(floating, set(42, 32, 24, 16, 11, 9), set(46, 36, 26, 17, 13, 10)).checks).toContain('bridge');
  });
});

describe('hybrids', () => {
  const all = [6, 5, 4, 3, 2, 1];
  it('leave their mirror image', () => {
    const hybrid = hybridOf(all, [
      { setId: 'heavy', numbers: all, take: [6, 5, 4] },
      { setId: 'light', numbers: all, take: [3, 2, 1] },
    ]);
    expect(hybrid.leaves).toEqual([
      ...[3, 2, 1].map((number) => ({ setId: 'heavy', number })),
      ...[6, 5, 4].map((number) => ({ setId: 'light', number })),
    ]);
  });
  it('refuse a position taken twice or left bare', () => {
    expect(() => hybridOf(all, [{ setId: 1, numbers: all, take: [6, 5] }])).toThrow('String 4 is in none');
    expect(() =>
      hybridOf(
        [1],
        [
          { setId: 1, numbers: [1], take: [1] },
          { setId: 2, numbers: [1], take: [1] },
        ],
      ),
    ).toThrow('more than once');
    expect(() => hybridOf([1], [{ setId: 1, numbers: [2], take: [1] }])).toThrow('no string 1');
  });
});

describe('strength and slots', () => {
  it('the stress of a plain string at pitch does not depend on its diameter', () => {
    const stress = (thou: number) => pullOf(electric, [plain(1, thou)]).positions[0]?.margin.stressMpa as number;
    expect(stress(9)).toBeCloseTo(stress(13), 6);
    expect(breakMargin({ tensionN: 50, coreMm: 0.5, core: 'rope' }).semitones).toBeNull();
  });
  it('tell two thin strings apart, or that only a gauge can', () => {
    expect(tellApart(plain(1, 10), plain(2, 13))).toMatchObject({ thinner: { number: 1 }, sure: true });
    expect(tellApart(plain(1, 10), plain(2, 10.5))?.sure).toBe(false);
    expect(tellApart(plain(1, 10), plain(2, 10))).toBeNull();
  });
  it('a slot must let its string glide', () => {
    expect([slotVerdict(0.3, 0.33), slotVerdict(0.36, 0.33), slotVerdict(0.7, 0.33)]).toEqual([
      'binds',
      'glides',
      'wide',
    ]);
    expect(slotAdvice(0.36, 0.33)).toBeNull();
    expect(slotAdvice(0.3, 0.33)).toContain('qualified repairer');
  });
});
