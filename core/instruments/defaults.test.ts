import { describe, expect, it } from 'vitest';
import { midiOf } from '../pitch/notes';
import { describeBuild, FAMILIES, PART_NAMES, SIZES, speakingLengthMm } from './build';
import { defaultBuild } from './defaults';

const all = FAMILIES.flatMap((family) => SIZES[family].map((size) => defaultBuild(family, size)));

describe('the usual builds', () => {
  it('have every string once, a post of its own for each, and notes that can be read', () => {
    for (const b of all) {
      const numbers = b.positions.map((p) => p.number);
      expect([...numbers].sort((x, y) => x - y)).toEqual(numbers.map((_, i) => i + 1));
      const posts = b.positions.map((p) => `${p.side}/${p.postOrder}/${p.speakingLengthMm ? 'neck' : 'head'}`);
      expect(new Set(posts).size, `${b.family} ${b.size}`).toBe(posts.length);
      for (const p of b.positions) {
        expect(midiOf(p.note)).toBeGreaterThan(20);
        expect(p.nutToPostMm).toBeGreaterThan(0);
        expect(speakingLengthMm(b, p)).toBeLessThanOrEqual(b.scaleMm);
      }
    }
  });

  it('get shorter with their size within a family', () => {
    for (const family of FAMILIES) {
      const scales = SIZES[family].map((size) => defaultBuild(family, size).scaleMm);
      const sorted = [...scales].sort((x, y) => (family === 'ukulele' ? x - y : y - x));
      expect(scales).toEqual(sorted);
    }
  });

  it('float their bridge exactly where it is held by tension only (common practice, no source)', () => {
    const floating = new Set(all.filter((b) => b.bridge === 'floating').map((b) => b.family));
    expect([...floating].sort()).toEqual(['banjo', 'cello', 'double-bass', 'mandolin', 'viola', 'violin']);
  });

  it('put the bass half of a split head on the bass side, outer strings nearest the nut', () => {
    const guitar = defaultBuild('steel-acoustic', '4/4');
    expect(guitar.positions.map((p) => `${p.number}${p.side[0]}${p.postOrder}`)).toEqual([
      '6b1',
      '5b2',
      '4b3',
      '3t3',
      '2t2',
      '1t1',
    ]);
    expect(defaultBuild('electric', '4/4').positions.every((p) => p.side === 'bass')).toBe(true);
  });

  it('start the short fifth of a banjo at the fifth fret', () => {
    const fifth = defaultBuild('banjo', '4/4').positions.find((p) => p.number === 5);
    expect(fifth).toMatchObject({ note: 'G4', speakingLengthMm: 500 });
  });

  it('refuse a size the family does not come in, and say which there are', () => {
    expect(() => defaultBuild('cello', 'tenor')).toThrow('4/4, 3/4, 1/2, 1/4');
  });

  it('can be said in words', () => {
    expect(describeBuild('ukulele', 'concert')).toBe('Concert ukulele');
    expect(describeBuild('cello', '3/4')).toBe('Cello, 3/4');
    expect(describeBuild('cello', '4/4')).toBe('Cello');
    for (const b of all)
      for (const part of [b.head, b.tuner, b.tailEnd, b.bridge, ...b.extras]) expect(PART_NAMES[part]).toBeTruthy();
  });
});
