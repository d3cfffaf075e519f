import { describe, expect, it } from 'vitest';
import { seededChance } from '../chance';
import { cellsOf, chanceWithin, learnEfforts, normalBelow, type WorkRecord } from './effort';

/** A number from the standard normal distribution (Box and Muller 1958). */
const normal = (chance: () => number) => Math.sqrt(-2 * Math.log(chance() + 1e-12)) * Math.cos(2 * Math.PI * chance());

describe('minutes learned from records', () => {
  it('without records are those that are usual, with the usual spread', () => {
    const e = learnEfforts(cellsOf([]));
    expect(e.of(1, 'violin', 30).low).toBeCloseTo(30 * Math.exp(-1.2816 * 0.3), 6);
    expect(e.of(1, 'violin', 30).records).toBe(0);
  });

  it('find what persons and methods really differ by, and how sure one can be', () => {
    const chance = seededChance(5);
    const people = [0.8, 1, 1.25];
    const methods = { violin: 1.3, ukulele: 0.7 };
    const records: WorkRecord[] = [];
    for (let i = 0; i < 1500; i++) {
      const person = Math.floor(chance() * 3);
      const [method, factor] =
        chance() < 0.5 ? (['violin', methods.violin] as const) : (['ukulele', methods.ukulele] as const);
      const minutes = 30 * factor * (people[person] as number) * Math.exp(0.2 * normal(chance));
      records.push({ person, method, minutes, usualMinutes: 30 });
    }
    // A bench left open over lunch says nothing.
    records.push({ person: 0, method: 'violin', minutes: 600, usualMinutes: 30 });
    const e = learnEfforts(cellsOf(records));
    expect(e.spread).toBeGreaterThan(0.19);
    expect(e.spread).toBeLessThan(0.22);
    for (const [person, by] of people.entries()) {
      const mean = 30 * methods.violin * by * Math.exp(0.02);
      expect(Math.abs(e.of(person, 'violin', 30).minutes / mean - 1)).toBeLessThan(0.05);
    }
    // Eight in ten lie between low and high.
    const own = e.of(2, 'ukulele', 30);
    const inside = records.filter(
      (r) => r.person === 2 && r.method === 'ukulele' && r.minutes >= own.low && r.minutes <= own.high,
    );
    const all = records.filter((r) => r.person === 2 && r.method === 'ukulele');
    expect(Math.abs(inside.length / all.length - 0.8)).toBeLessThan(0.07);
  });

  it('let a few records say little', () => {
    const slow = (n: number) =>
      learnEfforts(
        cellsOf(Array.from({ length: n }, () => ({ person: 1, method: 'cello', minutes: 60, usualMinutes: 30 }))),
      );
    const one = slow(1).of(1, 'cello', 30).minutes;
    const many = slow(40).of(1, 'cello', 30).minutes;
    expect(one).toBeLessThan(40);
    expect(many).toBeGreaterThan(55);
  });
});

it('the chance that a session is done in time agrees with drawing it', () => {
  const chance = seededChance(11);
  const [means, fixed, spread, minutes] = [[20, 35, 35, 50], 16, 0.25, 160];
  let done = 0;
  const draws = 20_000;
  for (let i = 0; i < draws; i++) {
    const sum = means.reduce((s, m) => s + m * Math.exp(spread * normal(chance) - spread ** 2 / 2), fixed);
    if (sum <= minutes) done += 1;
  }
  expect(Math.abs(chanceWithin(means, fixed, spread, minutes) - done / draws)).toBeLessThan(0.03);
  expect(chanceWithin([], 10, spread, 9)).toBe(0);
  // Published table of the normal distribution (Abramowitz and Stegun 1964, table 26.1).
  expect(normalBelow(1)).toBeCloseTo(0.8413447, 6);
  expect(normalBelow(-1.96)).toBeCloseTo(0.0249979, 6);
});
