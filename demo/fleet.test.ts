import { expect, it } from 'vitest';
import { addDays, weekdayOf } from '../core/dates';
import { FAMILIES } from '../core/instruments/build';
import { demoFleet, PLACES } from './fleet';
import { chanceOf } from './random';

const today = '2026-11-24';
const fleet = (seed = 1, copies = 1) => [...demoFleet(chanceOf(seed), today, copies)];

it('is the same for a seed and another for another', () => {
  expect(fleet(7)).toEqual(fleet(7));
  expect(fleet(7)).not.toEqual(fleet(8));
});

it('has 261 instruments of every family, at every place, each with its own tag', () => {
  const all = fleet();
  expect(all).toHaveLength(261);
  expect(new Set(all.map((i) => i.tag)).size).toBe(261);
  expect(new Set(all.map((i) => i.family))).toEqual(new Set(FAMILIES));
  expect(new Set(all.map((i) => i.place))).toEqual(new Set(PLACES));
  expect(new Set(fleet(1, 3).map((i) => i.tag)).size).toBe(783);
});

it('looks back on changes in order, on school days, in the past', () => {
  for (const i of fleet()) {
    const days = i.changes.map((c) => c.on);
    expect([...days].sort()).toEqual(days);
    for (const day of days) {
      expect(day < today && day >= addDays(today, -430)).toBe(true);
      expect(weekdayOf(day)).toBeLessThan(6);
    }
  }
});
