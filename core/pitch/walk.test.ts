import fc from 'fast-check';
import { expect, it } from 'vitest';
import { askedFor, beginWalk, HOLD_MS, type Walk, walkOn } from './walk';

const ORDER = [4, 3, 2, 1];
const heard = (number: number, cents: number, or: { number: number; cents: number } | null = null) =>
  ({ number, cents, hz: 260, or }) as Parameters<typeof walkOn>[1];

/** Plays a string for so long, a reading every 90 ms. */
function play(walk: Walk, number: number, cents: number, ms: number, from = 0): Walk {
  let now = walk;
  for (let t = 0; t <= ms; t += 90) now = walkOn(now, heard(number, cents), from + t);
  return now;
}

it('asks for the strings in order and takes each when it has stood in tune long enough', () => {
  let walk = beginWalk('tune', ORDER, 1);
  for (const n of ORDER) {
    expect(askedFor(walk)).toBe(n);
    walk = play(walk, n, -40, 2000);
    expect(walk.arrived).not.toContain(n);
    walk = play(walk, n, 1, HOLD_MS.tune + 90);
  }
  expect(askedFor(walk)).toBeNull();
});

it('does not take a string that only passes its note, nor one that could be another', () => {
  let walk = beginWalk('tune', ORDER, 1);
  for (let cents = -60; cents <= 60; cents += 4) walk = walkOn(walk, heard(4, cents), cents * 25);
  expect(walk.arrived).toEqual([]);
  for (let t = 0; t < 3000; t += 90) walk = walkOn(walk, heard(4, 0, { number: 3, cents: 2 }), t);
  expect(walk.arrived).toEqual([]);
});

it('goes back for a string that its neighbours pulled flat, and tunes twice through', () => {
  let walk = beginWalk('tune', ORDER);
  walk = play(walk, 4, 0, 1000);
  walk = play(walk, 3, 0, 1000);
  walk = play(walk, 4, -25, 200);
  expect(askedFor(walk)).toBe(4);
  for (const n of ORDER) walk = play(walk, n, 0, 1000);
  expect(walk).toMatchObject({ pass: 2, arrived: [] });
});

it('near pitch is up to a semitone below and hardly above', () => {
  const near = (cents: number) => play(beginWalk('near', ORDER), 4, cents, 1000).arrived.includes(4);
  expect([-180, -90, -10, 10, 40].map(near)).toEqual([false, true, true, true, false]);
});

it('whatever is heard, a string arrives only by standing where it should, and none is asked for twice at once', () => {
  const sound = fc.record({
    number: fc.integer({ min: 0, max: 6 }),
    cents: fc.integer({ min: -200, max: 200 }),
    silent: fc.boolean(),
  });
  fc.assert(
    fc.property(fc.array(sound, { maxLength: 200 }), (sounds) => {
      let walk = beginWalk('tune', ORDER);
      for (const [i, s] of sounds.entries()) {
        const before = walk;
        walk = walkOn(walk, s.silent ? null : heard(s.number, s.cents), i * 400);
        expect(new Set(walk.arrived).size).toBe(walk.arrived.length);
        const fresh = walk.arrived.filter((n) => !before.arrived.includes(n));
        for (const n of fresh) expect([n, Math.abs(s.cents) <= 5]).toEqual([s.number, true]);
      }
    }),
  );
});
