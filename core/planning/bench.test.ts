import fc from 'fast-check';
import { expect, it } from 'vitest';
import { benchShares } from './bench';

const at = (from: number, until: number, place = 0) => ({ place, from: 60 * from, until: 60 * until });

it('shares a bench by the hour among those who are there', () => {
  expect(benchShares([at(9, 12)], () => 4)).toEqual([{ minutes: 180, space: 4 }]);
  // Two at a bench for four have two each; at a bench for one each has half of the hours they are both there.
  expect(benchShares([at(9, 12), at(9, 12)], () => 4).map((s) => s.space)).toEqual([2, 2]);
  expect(benchShares([at(9, 12), at(11, 13)], () => 1)).toEqual([
    { minutes: 150, space: 1 },
    { minutes: 90, space: 1 },
  ]);
  // One after the other they share nothing, and elsewhere neither.
  expect(benchShares([at(9, 12), at(12, 13), at(9, 12, 1)], () => 1).map((s) => s.minutes)).toEqual([180, 60, 180]);
  expect(benchShares([at(9, 12), at(9, 12)], () => undefined)).toEqual([
    { minutes: 180, space: undefined },
    { minutes: 180, space: undefined },
  ]);
});

it('never gives more work by the hour than the bench holds, whoever comes and goes', () => {
  fc.assert(
    fc.property(
      fc.array(fc.record({ from: fc.nat(20), hours: fc.integer({ min: 1, max: 6 }) }), { minLength: 1, maxLength: 7 }),
      fc.integer({ min: 1, max: 4 }),
      (times, room) => {
        const there = times.map((t) => at(t.from, t.from + t.hours));
        const shares = benchShares(there, () => room);
        let bench = 0;
        for (let hour = 0; hour < 27; hour++) {
          const people = there.filter((t) => t.from <= 60 * hour && 60 * hour < t.until).length;
          bench += 60 * Math.min(room, people);
        }
        const given = shares.reduce((sum, s) => sum + s.minutes, 0);
        expect(given).toBeLessThanOrEqual(bench);
        // Only what rounding to whole minutes takes is lost.
        expect(given).toBeGreaterThan(bench - shares.length);
        for (const s of shares) expect(s.space).toBeGreaterThanOrEqual(1);
      },
    ),
  );
});
