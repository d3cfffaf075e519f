import fc from 'fast-check';
import { expect, it } from 'vitest';
import { closedShifts, type ShiftThere, type Taken } from './reach';

const HOUR = 60;
const DAY = 24 * HOUR;
const lesson = (day: number, from: number, until: number): Taken => ({
  from: day * DAY + from * HOUR,
  until: day * DAY + until * HOUR,
  lesson: true,
  why: '5b',
});
const shift = (n: number, day: number, from: number, hours: number, needs = 40): ShiftThere => ({
  shift: n,
  at: day * DAY + from * HOUR,
  minutes: hours * HOUR,
  needs,
});
const which = (...p: Parameters<typeof closedShifts>) => closedShifts(...p).map((c) => c.shift);

it('a lesson closes a shift only where it leaves no piece as long as the work', () => {
  const shifts = [shift(0, 0, 9, 2), shift(1, 0, 14, 2)];
  expect(which([lesson(0, 10, 11)], shifts, null)).toEqual([]);
  expect(closedShifts([lesson(0, 9.5, 10.5)], shifts, null)).toEqual([{ shift: 0, why: '5b' }]);
  // Two lessons together leave too little between them.
  expect(which([lesson(0, 9.5, 10), lesson(0, 10.5, 11)], shifts, null)).toEqual([0]);
  expect(which([lesson(0, 9.5, 10), lesson(0, 10.5, 11)], [shift(0, 0, 9, 2, 30)], null)).toEqual([]);
});

it('new strings do not go on right before a lesson, unless every day has one', () => {
  const days = [0, 1, 2, 3].map((d) => shift(d, d, 9, 3));
  // Common practice, no source: the first retune, a day later, comes before the lesson.
  expect(closedShifts([lesson(2, 13, 14)], days, { due: 0 })).toEqual([
    { shift: 2, why: 'new strings right before 5b' },
  ]);
  expect(which([lesson(2, 9, 9.5)], days, { due: 0 })).toEqual([1]);
  // A look leaves it in tune.
  expect(which([lesson(2, 13, 14)], days, null)).toEqual([]);
  // With a lesson every morning it is done after one of them at least.
  const mornings = [0, 1, 2, 3].map((d) => lesson(d, 10, 11));
  const twice = [shift(0, 0, 8, 2), shift(1, 0, 13, 2), shift(2, 1, 8, 2), shift(3, 1, 13, 2)];
  expect(which(mornings, twice, { due: 0 })).toEqual([0, 2]);
  // Nobody is there but before lessons: better before one than not at all.
  expect(which(mornings, [shift(0, 0, 8, 2), shift(1, 1, 8, 2)], { due: 0 })).toEqual([]);
});

it('whatever takes it: a shift is open when minute by minute a piece of it is free, and rest never closes the last one', () => {
  const span = fc.record({ day: fc.nat(5), from: fc.nat(23), hours: fc.integer({ min: 1, max: 6 }) });
  fc.assert(
    fc.property(
      fc.array(span, { maxLength: 8 }),
      fc.array(fc.record({ day: fc.nat(5), from: fc.nat(20), hours: fc.integer({ min: 1, max: 4 }) }), {
        minLength: 1,
        maxLength: 6,
      }),
      fc.integer({ min: 10, max: 60 }),
      (lessons, there, needs) => {
        const taken = lessons.map((l) => lesson(l.day, l.from, l.from + l.hours));
        const shifts = there.map((s, n) => shift(n, s.day, s.from, s.hours, needs));
        const closed = new Set(which(taken, shifts, null));
        for (const s of shifts) {
          let piece = 0;
          let longest = 0;
          for (let m = s.at; m < s.at + s.minutes; m++) {
            piece = taken.some((t) => t.from <= m && m < t.until) ? 0 : piece + 1;
            longest = Math.max(longest, piece);
          }
          expect(closed.has(s.shift)).toBe(longest < needs);
        }
        const rested = new Set(which(taken, shifts, { due: 0 }));
        for (const c of closed) expect(rested.has(c)).toBe(true);
        if (closed.size < shifts.length) expect(rested.size).toBeLessThan(shifts.length);
      },
    ),
  );
});
