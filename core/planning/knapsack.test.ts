import fc from 'fast-check';
import { expect, it } from 'vitest';
import { Knapsack } from './knapsack';

const groups = fc.array(
  fc.record({
    setUp: fc.integer({ min: 0, max: 9 }),
    points: fc.integer({ min: 0, max: 6 }),
    space: fc.constantFrom(0, 1, 2, 3),
    things: fc.array(fc.record({ minutes: fc.integer({ min: 0, max: 20 }), cost: fc.integer({ min: -20, max: -1 }) }), {
      minLength: 1,
      maxLength: 4,
    }),
  }),
  { minLength: 1, maxLength: 3 },
);

it('finds the cheapest contents of a session, with set-ups, bench space, the way and what is left over, as trying all of them does', () => {
  const knapsack = new Knapsack();
  fc.assert(
    fc.property(
      groups,
      fc.integer({ min: 0, max: 60 }),
      fc.integer({ min: 0, max: 8 }),
      fc.integer({ min: 0, max: 4 }),
      (all, minutes, trip, room) => {
        const rest = (used: number) => -room * Math.floor((minutes - used) / 7);
        const things = all.flatMap((g, group) => g.things.map((t) => ({ ...t, group })));
        /** What some of the things cost together; null where they do not fit. What takes no minutes needs no set-up. */
        const costOf = (which: readonly number[]): number | null => {
          let [used, cost] = [0, which.length > 0 ? trip : 0];
          all.forEach((g, group) => {
            const there = which.filter((i) => things[i]?.group === group && (things[i]?.minutes ?? 0) > 0).length;
            const times = there === 0 ? 0 : g.space === 0 ? 1 : Math.ceil(there / g.space);
            used += times * g.setUp;
            cost += times * g.points;
          });
          for (const i of which) {
            used += things[i]?.minutes ?? 0;
            cost += things[i]?.cost ?? 0;
          }
          return used > minutes ? null : cost + rest(used);
        };
        let best = Number.POSITIVE_INFINITY;
        for (let set = 0; set < 1 << things.length; set++) {
          const cost = costOf(things.flatMap((_, i) => ((set >> i) & 1 ? [i] : [])));
          if (cost !== null) best = Math.min(best, cost);
        }

        knapsack.begin(minutes);
        let id = 0;
        for (const g of all) {
          knapsack.group(g.setUp, g.points, g.space);
          for (const t of g.things) knapsack.item(id++, t.minutes, t.cost);
        }
        expect(knapsack.best(rest, trip)).toBeCloseTo(best, 9);
        // What it says is in it costs just that.
        const taken = knapsack.taken();
        expect(new Set(taken).size).toBe(taken.length);
        expect(costOf(taken)).toBeCloseTo(best, 9);
      },
    ),
    { numRuns: 1500 },
  );
});
