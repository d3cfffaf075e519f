import { describe, expect, it } from 'vitest';
import { cents, frequencyHz, midiOf } from '../../core/pitch/notes';
import { slipMm } from '../../core/settling/slip';
import { layeredMassKgPerM, massFromWeighing, massKgPerM, plainMassKgPerM } from '../../core/strings/mass';
import { modulusMpa, strengthMpa } from '../../core/strings/materials';
import { breakMargin } from '../../core/strings/strength';
import { elasticTakeUpMm, mmOfThou, stressMpa, tensionN, thouOf } from '../../core/strings/tension';

describe('what a string gives (Hooke: T · L / (E · A), moduli from handbooks)', () => {
  it('is about 5 mm on thin steel and some 40 mm on nylon (common practice, no source)', () => {
    const steel = elasticTakeUpMm({ tensionN: 58.798875, freeLengthMm: 720, coreMm: 0.2286, modulusMpa: 207_000 });
    expect(steel).toBeCloseTo((58.798875 * 720) / (207_000 * ((Math.PI * 0.2286 ** 2) / 4)), 9);
    expect(steel).toBeGreaterThan(4);
    expect(steel).toBeLessThan(6);
    const nylon = elasticTakeUpMm({ tensionN: 68, freeLengthMm: 760, coreMm: 0.71, modulusMpa: modulusMpa('nylon') });
    expect(nylon).toBeGreaterThan(25);
    expect(nylon).toBeLessThan(45);
  });

  it('let go by the slip of a drop, the pitch falls by just that drop (Mersenne and Hooke together)', () => {
    const length = { speakingMm: 648, wholeMm: 720 };
    const [coreMm, modulus] = [0.2286, 207_000];
    const mass = plainMassKgPerM(coreMm, 7850);
    const pitchOf = (tension: number) => Math.sqrt(tension / mass) / (2 * (length.speakingMm / 1000));
    for (const drop of [10, 100, 250]) {
      const tension = 58.798875;
      const slip = slipMm({
        cents: drop,
        tensionN: tension,
        totalLengthMm: length.wholeMm,
        coreMm,
        modulusMpa: modulus,
      });
      const left = tension - (slip * modulus * ((Math.PI * coreMm ** 2) / 4)) / length.wholeMm;
      expect(cents(pitchOf(left), pitchOf(tension))).toBeCloseTo(drop, 6);
    }
  });
});

describe('string tension (Mersenne: T = μ (2 L f)²)', () => {
  it('of a plain steel .009 at E4 on 648 mm', () => {
    const mass = plainMassKgPerM(mmOfThou(9), 7850);
    const tension = tensionN(mass, 648, frequencyHz(midiOf('E4')));
    expect(tension / 58.798875).toBeCloseTo(1, 5);
    expect(tension / 4.4482216 / 13.218513).toBeCloseTo(1, 5);
    expect(stressMpa(tension, 0.2286) / 1432.606).toBeCloseTo(1, 5);
  });

  it('of a wound string by the closed-ring formula, A2 on 648 mm', () => {
    const core = { diameterMm: 0.4064, densityKgM3: 7850 };
    const wrap = { material: 'steel', shape: 'round', thicknessMm: 0.3302 } as const;
    const { massKgPerM: mass, gaugeMm } = layeredMassKgPerM(core, [wrap]);
    expect(gaugeMm).toBeCloseTo(1.0668, 9);
    expect(mass / 0.0057293346).toBeCloseTo(1, 5);
    expect(tensionN(mass, 648, frequencyHz(midiOf('A2'))) / 116.43929).toBeCloseTo(1, 5);
    // The exact helix: the closed rings read up to 1 % low on thick wraps.
    const exact = layeredMassKgPerM(core, [wrap], true).massKgPerM;
    expect(tensionN(exact, 648, frequencyHz(midiOf('A2'))) / 117.40909).toBeCloseTo(1, 5);
  });

  it('of two layers adds the rings of each; a ribbon is the ring between its circles (geometry)', () => {
    const core = { diameterMm: 0.8, densityKgM3: 7850 };
    const inner = { material: 'steel', shape: 'round', thicknessMm: 0.3 } as const;
    const ribbon = { material: 'nickel', shape: 'flat', thicknessMm: 0.1 } as const;
    const { massKgPerM: mass, gaugeMm } = layeredMassKgPerM(core, [inner, ribbon]);
    expect(gaugeMm).toBeCloseTo(1.6, 9);
    const ring = (8900 * Math.PI * (0.8 ** 2 - 0.7 ** 2)) / 1e6;
    expect(mass - layeredMassKgPerM(core, [inner]).massKgPerM).toBeCloseTo(ring, 9);
  });

  it('is weighed as grams over millimetres', () => {
    expect(massFromWeighing(4.2, 1000)).toBeCloseTo(0.0042, 12);
    expect(() => massFromWeighing(0, 1000)).toThrow(RangeError);
  });

  it('music wire of .009 holds 2738.563 MPa: 5.609 semitones above E4 (ASTM A228 as tabulated; constants from memory)', () => {
    expect((strengthMpa('steel', 0.2286) as number) / 2738.563).toBeCloseTo(1, 5);
    expect(breakMargin({ tensionN: 58.798875, coreMm: 0.2286, core: 'steel' }).semitones).toBeCloseTo(5.609, 3);
  });

  it('takes a measured mass before a computed one', () => {
    const build = { gaugeMm: 0.8, coreMm: 0.5, core: 'composite', wrap: 'silver' } as const;
    expect(massKgPerM({ ...build, massKgPerM: 0.0031 })).toBe(0.0031);
    expect(massKgPerM(build)).toBeGreaterThan(0);
  });

  it('says a "10" is 0.254 mm (an inch is 25.4 mm exactly)', () => {
    expect(mmOfThou(10)).toBeCloseTo(0.254, 12);
    expect(thouOf(mmOfThou(46))).toBeCloseTo(46, 12);
  });
});
