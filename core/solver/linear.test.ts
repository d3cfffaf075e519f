import fc from 'fast-check';
import loadHighs, { type Highs } from 'highs';
import { beforeAll, expect, it } from 'vitest';
import { LinearProgram } from './linear';

let highs: Highs;
beforeAll(async () => {
  highs = await loadHighs();
});

const programs = fc.record({
  columns: fc.array(
    fc.record({ cost: fc.integer({ min: -9, max: 9 }), upper: fc.integer({ min: 0, max: 6 }), open: fc.boolean() }),
    { minLength: 1, maxLength: 6 },
  ),
  rows: fc.array(
    fc.record({
      values: fc.array(fc.integer({ min: -4, max: 4 }), { minLength: 6, maxLength: 6 }),
      upper: fc.integer({ min: 0, max: 12 }),
    }),
    { maxLength: 5 },
  ),
  multipliers: fc.array(fc.double({ min: -8, max: 8, noNaN: true }), { minLength: 5, maxLength: 5 }),
});

/** All rows have room for nothing at all, so that the origin is feasible. */
function make(p: typeof programs extends fc.Arbitrary<infer T> ? T : never): LinearProgram {
  const lp = new LinearProgram();
  // A column without an end costs something, so that there is an optimum.
  for (const c of p.columns)
    lp.column(c.open ? Math.abs(c.cost) : c.cost, 0, c.open ? Number.POSITIVE_INFINITY : c.upper, false);
  for (const r of p.rows)
    lp.row(
      Number.NEGATIVE_INFINITY,
      r.upper,
      p.columns.map((_, i) => [i, r.values[i] as number] as const),
    );
  return lp;
}

it('bounds a program from below at any multipliers, and meets its optimum at the solver’s (weak and strong duality)', () => {
  fc.assert(
    fc.property(programs, (p) => {
      const lp = make(p);
      const solved = lp.solve(highs, { seconds: 5 });
      if (!solved) throw new Error('The origin is feasible.');
      expect(lp.dualBound(p.multipliers)).toBeLessThanOrEqual(solved.objective + 1e-6);
      expect(solved.bound).toBeCloseTo(solved.objective, 5);
    }),
    {
      numRuns: 150,
      examples: [
        // A column without an end whose reduced cost is nothing but rounding.
        [
          {
            columns: [
              { cost: 0, upper: 0, open: true },
              { cost: -3, upper: 2, open: false },
              { cost: -1, upper: 1, open: false },
            ],
            rows: [
              { values: [-1, 4, 1, 0, 0, 0], upper: 7 },
              { values: [4, -1, 2, 0, 0, 0], upper: 2 },
            ],
            multipliers: [0, 0, 0, 0, 0],
          },
        ],
      ],
    },
  );
});
