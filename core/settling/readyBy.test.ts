import { expect, it } from 'vitest';
import { settlingDays, visitsAfterChange } from './readyBy';

it('a metal set needs a day before a concert, nylon two, gut three (common practice, no source)', () => {
  expect([settlingDays(['steel']), settlingDays(['steel', 'nylon']), settlingDays(['gut'])]).toEqual([1, 2, 3]);
});

it('brings retunes on day 1 and 3, and a look at a floating bridge within 24 hours', () => {
  expect(visitsAfterChange('fixed').map((v) => v.afterHours)).toEqual([24, 72]);
  expect(visitsAfterChange('fixed', true)[0]).toMatchObject({ kind: 'proper-look', afterHours: 24 });
  expect(visitsAfterChange('floating')[0]).toMatchObject({ kind: 'bridge-check', afterHours: 24 });
});
