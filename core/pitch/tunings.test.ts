import { describe, expect, it } from 'vitest';
import { FAMILIES, SIZES } from '../instruments/build';
import { defaultBuild } from '../instruments/defaults';
import { checkedA4, midiOf, nameOf } from './notes';
import { isReentrant, soundingMidi, TUNINGS, targetsHz } from './tunings';

describe('tunings', () => {
  it('fit every family: readable notes, one for each string', () => {
    for (const family of FAMILIES) {
      const strings = defaultBuild(family, SIZES[family][0] as string).positions.length;
      for (const t of TUNINGS[family]) {
        expect(t.notes.length, `${family} ${t.id}`).toBe(strings);
        for (const note of t.notes) expect(nameOf(midiOf(note))).toMatch(/^[A-G]#?\d$/);
      }
    }
  });

  it('are re-entrant on a high-G ukulele and a banjo only (common practice, no source)', () => {
    const reentrant = FAMILIES.filter((f) => isReentrant(defaultBuild(f, SIZES[f][0] as string).positions));
    expect(reentrant).toEqual(['ukulele', 'banjo']);
    expect(isReentrant(defaultBuild('ukulele', 'baritone').positions)).toBe(false);
  });

  it('leave the short fifth where it is when a capo goes on, until a spike holds it', () => {
    const positions = defaultBuild('banjo', '4/4').positions;
    const fifth = positions[0] as (typeof positions)[number];
    const fourth = positions[1] as (typeof positions)[number];
    expect(nameOf(soundingMidi(fourth, { capoFret: 2 }))).toBe('E3');
    expect(nameOf(soundingMidi(fifth, { capoFret: 2 }))).toBe('G4');
    expect(nameOf(soundingMidi(fifth, { capoFret: 2, spikeFret: 7 }))).toBe('A4');
  });
});

describe('targets', () => {
  it('in pure fifths differ from equal temperament as ratio arithmetic says', () => {
    const pure = targetsHz(defaultBuild('viola', '16 in').positions, { a4Hz: 440, temperament: 'pure' });
    expect([...pure.values()].map((hz) => +hz.toFixed(5))).toEqual([130.37037, 195.55556, 293.33333, 440]);
    const bass = targetsHz(defaultBuild('double-bass', '3/4').positions, { a4Hz: 440, temperament: 'pure' });
    expect((bass.get(4) as number) * (4 / 3)).toBeCloseTo(bass.get(3) as number, 9);
  });

  it('refuse a reference pitch nobody uses', () => {
    expect(checkedA4(415)).toBe(415);
    for (const hz of [0, 300, 467, Number.NaN]) expect(() => checkedA4(hz)).toThrow('415 to 466');
  });
});
