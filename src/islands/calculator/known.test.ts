import { describe, expect, it } from 'vitest';
import { FAMILIES, SIZES } from '../../../core/instruments/build';
import { defaultBuild } from '../../../core/instruments/defaults';
import { massKgPerM } from '../../../core/strings/mass';
import { beginWith, fittingSets, type KnownSet, type KnownString, own, thinPair } from './known';

const steel = (gaugeMm: number, more: Partial<KnownString> = {}): KnownString => ({
  name: 'of a set',
  gaugeMm,
  coreMm: gaugeMm,
  core: 'steel',
  wrap: null,
  massKgPerM: 0,
  lengthMm: 1000,
  ...more,
});

describe('a string changed by hand', () => {
  it('weighs what its gauge, core and wrap weigh, and is one’s own', () => {
    const plain = own(steel(0.3), { gaugeMm: 0.35 });
    expect(plain).toMatchObject({ name: 'own', coreMm: 0.35, gaugeMm: 0.35 });
    expect(plain.massKgPerM).toBe(massKgPerM({ gaugeMm: 0.35, coreMm: 0.35, core: 'steel', wrap: null }));
    // Wound, it gets a core inside it; plain again, it is all core.
    const wound = own(plain, { wrap: 'phosphor-bronze' });
    expect(wound.coreMm).toBeLessThan(wound.gaugeMm);
    expect(own(wound, { wrap: null }).coreMm).toBe(0.35);
    // A core is never as thick as the string.
    expect(own(wound, { coreMm: 0.5 }).coreMm).toBeLessThan(0.35);
    expect(own(wound, { coreMm: 0.2 }).coreMm).toBe(0.2);
  });
});

describe('what the calculator begins with', () => {
  it('is a string for each position of every family and size, also without a catalogue', () => {
    for (const family of FAMILIES)
      for (const size of SIZES[family]) {
        const build = defaultBuild(family, size);
        const strings = beginWith(build, []);
        expect(Object.keys(strings).map(Number).sort()).toEqual(build.positions.map((p) => p.number).sort());
        for (const s of Object.values(strings)) expect(s.massKgPerM).toBeGreaterThan(0);
      }
  });

  it('is a set of the catalogue where one has them all', () => {
    const build = defaultBuild('ukulele', SIZES.ukulele[0] as string);
    const strings = Object.fromEntries(
      Object.entries(beginWith(build, [])).map(([n, s]) => [n, { ...s, name: 'of the set' }]),
    );
    const set: KnownSet = { id: 'a', name: 'a set', family: 'ukulele', strings };
    const short: KnownSet = { ...set, id: 'b', strings: { 1: strings[1] as KnownString } };
    expect(fittingSets(build, [short, set]).map((s) => s.id)).toEqual(['a']);
    expect(Object.values(beginWith(build, [short, set])).map((s) => s.name)).toEqual(
      build.positions.map(() => 'of the set'),
    );
  });

  it('tells the two thinnest plain strings apart, and says nothing of wound ones', () => {
    const build = defaultBuild('steel-acoustic', SIZES['steel-acoustic'][0] as string);
    expect(thinPair(build, { 1: steel(0.3), 2: steel(0.4) })).toContain('unmarked');
    expect(thinPair(build, { 1: steel(0.3), 2: steel(1.3, { wrap: 'phosphor-bronze' }) })).toBeNull();
  });
});
