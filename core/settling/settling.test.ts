import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { CORE } from '../parts/cores';
import { CORE_MATERIALS, modulusMpa } from '../strings/materials';
import { driftCents, fitCreep, type Retune, readyAfterDays, slips, usualCreep, visitDays } from './creep';
import { buttonTurns, pullLost, slipMm } from './slip';
import { adviseStretch } from './stretch';

const logged = (creep: { amountCents: number; timeConstantDays: number }, days: number[], noise: number[] = []) =>
  days.map(
    (atDays, i): Retune => ({
      atDays,
      flatCents: driftCents(creep, atDays) - driftCents(creep, days[i - 1] ?? 0) + (noise[i] ?? 0),
    }),
  );

describe('creep', () => {
  it('starts from the settling hours of common practice', () => {
    for (const core of CORE_MATERIALS) {
      const { readyDays } = fitCreep(core, []);
      const { quick, careful } = CORE[core].settlesHours;
      expect(readyDays.middle * 24).toBeGreaterThan(quick * 0.9);
      expect(readyDays.middle * 24).toBeLessThan(careful * 1.05);
      expect(readyDays.late * 24).toBeGreaterThan(careful * 0.85);
      expect(readyDays.late * 24).toBeLessThan(careful * 1.25);
    }
  });

  it('follows what is measured: a string that hardly creeps is ready sooner, a bad one later', () => {
    const calm = { ...usualCreep('nylon'), amountCents: 9 };
    const wild = { ...usualCreep('nylon'), amountCents: 60 };
    const days = [0.05, 0.3, 1, 2];
    const none = fitCreep('nylon', []).readyDays;
    expect(fitCreep('nylon', logged(calm, days)).readyDays.middle).toBeLessThan(none.early);
    expect(fitCreep('nylon', logged(wild, days)).readyDays.middle).toBeGreaterThan(none.late);
  });

  it('narrows with readings and is near the truth, with 2 cents of noise', () => {
    fc.assert(
      fc.property(
        fc.double({ min: 10, max: 60, noNaN: true }),
        fc.array(fc.double({ min: -2, max: 2, noNaN: true }), { minLength: 5, maxLength: 5 }),
        (amountCents, noise) => {
          const truth = { amountCents, timeConstantDays: 0.012 };
          const { readyDays } = fitCreep('nylon', logged(truth, [0.05, 0.2, 0.5, 1, 2], noise));
          const real = readyAfterDays(truth, 12);
          expect(readyDays.early).toBeLessThan(real * 1.25 + 0.1);
          expect(readyDays.late).toBeGreaterThan(real * 0.8 - 0.1);
          expect(readyDays.late - readyDays.early).toBeLessThan(0.4 * real + 0.35);
        },
      ),
      { numRuns: 40 },
    );
  });

  it('finds the ready time of strings that creep by hours or by days, from readings without noise', () => {
    const days = [0.05, 0.3, 1, 2, 3, 5];
    for (const core of ['steel', 'nylon', 'gut'] as const)
      for (const timeConstantDays of [0.004, 0.02, 0.1, 0.5, 1.5, 4])
        for (const amountCents of [12, 30, 60]) {
          const truth = { amountCents, timeConstantDays };
          const real = readyAfterDays(truth, 12);
          // Ready within hours, or a week beyond the last reading: nothing measured speaks of it.
          if (real < 0.3 || real > 10) continue;
          const { middle, late } = fitCreep(core, logged(truth, days)).readyDays;
          expect(middle / real, `${core}, ${timeConstantDays} d, ${amountCents} cents`).toBeGreaterThan(0.75);
          expect(middle - real, `${core}, ${timeConstantDays} d, ${amountCents} cents`).toBeLessThan(1 + 0.3 * real);
          expect(late).toBeGreaterThan(0.9 * real);
        }
  });

  it('calls drops that grow from day to day a slip, and honest creep never', () => {
    const daily = (...flat: number[]): Retune[] => flat.map((flatCents, i) => ({ atDays: i + 1, flatCents }));
    expect(fitCreep('nylon', daily(10, 14, 20)).slips).toBe(true);
    expect(fitCreep('steel', daily(4, 9, 30)).slips).toBe(true);
    expect(slips(daily(40, 20, 12))).toBe(false);
    // A few cents more are within what a tuner's reading spreads.
    expect(slips(daily(9, 12, 11))).toBe(false);
    fc.assert(
      fc.property(
        fc.double({ min: 5, max: 80, noNaN: true }),
        fc.double({ min: 0.004, max: 3, noNaN: true }),
        fc.array(fc.double({ min: -2, max: 2, noNaN: true }), { minLength: 5, maxLength: 5 }),
        (amountCents, timeConstantDays, noise) => {
          const days = [0.5, 1, 2, 3, 4];
          expect(slips(logged({ amountCents, timeConstantDays }, days, noise))).toBe(false);
        },
      ),
    );
  });

  it('bears one bad reading and names it', () => {
    const truth = usualCreep('nylon');
    const good = logged(truth, [0.05, 0.2, 0.5, 1, 2]);
    const bad = good.map((r, i) => (i === 3 ? { ...r, flatCents: r.flatCents + 90 } : r));
    const fit = fitCreep('nylon', bad);
    expect(fit.doubtful).toEqual([3]);
    expect(fit.readyDays.middle / fitCreep('nylon', good).readyDays.middle).toBeLessThan(1.2);
    expect(() =>
      fitCreep('nylon', [
        { atDays: 2, flatCents: 3 },
        { atDays: 1, flatCents: 3 },
      ]),
    ).toThrow(RangeError);
  });

  it('spaces visits so that each finds the string equally flat', () => {
    const creep = { amountCents: 30, timeConstantDays: 0.01 };
    const days = visitDays(creep, 3, 4);
    const drops = logged(creep, days).map((r) => r.flatCents);
    for (const drop of drops) expect(drop).toBeCloseTo(drops[0] as number, 9);
    expect(days.at(-1)).toBeCloseTo(3, 9);
  });
});

describe('stretching', () => {
  const wound = { core: 'steel', wound: true } as const;
  it('goes on while it pays and stops when a pull hardly moves the string', () => {
    expect(adviseStretch(wound, [], 3).again).toBe(true);
    expect(adviseStretch(wound, [150], 3)).toMatchObject({ again: true, kind: 'again' });
    expect(adviseStretch(wound, [150, 30, 6], 4)).toMatchObject({ again: false, kind: 'settled' });
    expect(adviseStretch(wound, [], 0).again).toBe(false);
  });
  it('warns of a slip, of too hard a pull, and never asks for a fifth round', () => {
    expect(adviseStretch(wound, [100, 140], 3).kind).toBe('slipping');
    expect(adviseStretch(wound, [400], 3).kind).toBe('too-hard');
    expect(adviseStretch(wound, [150, 120, 90, 70], 4)).toMatchObject({ again: false, kind: 'slipping' });
    fc.assert(
      fc.property(fc.array(fc.double({ min: 0, max: 300, noNaN: true }), { minLength: 4, maxLength: 6 }), (drops) => {
        expect(adviseStretch(wound, drops, 4).again).toBe(false);
      }),
    );
  });
});

describe('slip', () => {
  it('a semitone on plain steel is well under a millimetre (common practice, no source)', () => {
    const mm = slipMm({
      cents: 100,
      tensionN: 58.8,
      totalLengthMm: 720,
      coreMm: 0.2286,
      modulusMpa: modulusMpa('steel'),
    });
    expect(mm).toBeGreaterThan(0.3);
    expect(mm).toBeLessThan(0.9);
    expect(buttonTurns(mm, 6, 0.2286, 'plain-post')).toBeLessThan(0.7);
    expect(buttonTurns(mm, 6, 0.2286, 'friction-peg')).toBeLessThan(0.05);
  });
  it('loses 1 − 2^(−c/600) of the pull: half at an octave down and half again of what is left (calculus)', () => {
    expect(pullLost(600)).toBeCloseTo(0.5, 12);
    expect(pullLost(1200)).toBeCloseTo(0.75, 12);
    expect(pullLost(10)).toBeCloseTo((10 * Math.LN2) / 600, 3);
  });
});
