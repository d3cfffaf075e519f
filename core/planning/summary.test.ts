import fc from 'fast-check';
import { expect, it } from 'vitest';
import { costOf } from './check';
import type { PlanProblem } from './model';
import { planSummary, sayBetter, sayDifference, sayPlan, sayProof, sayRest } from './summary';

const job = (id: number, more: Partial<PlanProblem['jobs'][number]> = {}): PlanProblem['jobs'][number] => ({
  id,
  site: 0,
  group: 0,
  sku: -1,
  minutes: [30],
  release: 0,
  due: 3,
  latest: null,
  weight: 1,
  ...more,
});
const problem = (jobs: PlanProblem['jobs']): PlanProblem => ({
  days: 14,
  sites: 1,
  people: [{ helper: false, supervisor: true, skill: [4] }],
  shifts: [1, 5, 9].map((day, id) => ({ id, person: 0, day, site: 0, minutes: 120 })),
  jobs,
  skillNeeded: [3],
  stock: [],
  setUpMinutes: 10,
  retuneMinutes: 5,
  retuneLags: [],
  weights: { setUp: 2, missedRetune: 3, travel: 1, fairness: 0, change: 1, unplannedDays: 20, wall: 3 },
});
const concert = { name: 'Lantern Concert', day: 8, instruments: [1, 2, 3, 4, 5], referred: [5] };

it('ready is said of what is planned in time or needs nothing, and of nothing whose strings nobody knows', () => {
  const p = problem([job(1, { latest: 6 }), job(2, { latest: 6 }), job(3), job(9, { due: -4 })]);
  const kinds = ['change', 'change', 'inspection', 'change'] as const;
  // The first in time, the second in no session, the third a look, the fourth instrument needs nothing.
  const s = planSummary(p, Int32Array.from([1, -1, 0, 2]), kinds, [concert]);
  expect(s.concerts).toMatchObject([{ ready: 2, waiting: [1], looks: [2], instruments: 5, referred: 1 }]);
  expect(s.late).toEqual({ jobs: 2, worstDays: 13, overdue: 1, days: 15 });
  expect(s.out).toEqual([1]);
  expect(s.minutes).toEqual({ used: 120, there: 360 });
  expect(sayPlan(s, 4)).toBe('2 of 5 can be ready for the Lantern Concert');
  expect(sayRest(s, 4)).toBe(
    '1 of 4 tasks not planned, 2 late, the worst by 13 days (1 already overdue), 2 of 6 hours used.',
  );
  // After its wall is not in time, whatever else is right with it.
  expect(planSummary(p, Int32Array.from([2, 1, 0, 2]), kinds, [concert]).concerts).toMatchObject([{ waiting: [0] }]);
  const none = planSummary(p, Int32Array.from([0, 0, 0, 0]), kinds, []);
  expect(sayPlan(none, 4)).toBe('All 4 planned, 1 late');
});

it('moving a job from its place and back costs in words what it saves in words', () => {
  const p = problem([job(1, { published: 0 }), job(2), job(3)]);
  fc.assert(
    fc.property(
      fc.array(fc.integer({ min: -1, max: 2 }), { minLength: 3, maxLength: 3 }),
      fc.array(fc.integer({ min: -1, max: 2 }), { minLength: 3, maxLength: 3 }),
      (a, b) => {
        const [x, y] = [Int32Array.from(a), Int32Array.from(b)];
        const out = (plan: Int32Array) => plan.filter((s) => s < 0).length;
        const there = sayDifference(p, costOf(p, x), costOf(p, y), out(y) - out(x));
        const back = sayDifference(p, costOf(p, y), costOf(p, x), out(x) - out(y));
        const turned = there.replace(/more|fewer/g, (w) => (w === 'more' ? 'fewer' : 'more'));
        expect(turned).toBe(back);
        if (a.join() === b.join()) expect(there).toBe('');
      },
    ),
  );
});

it('a proof says what could still be saved, and never less than that', () => {
  expect(sayProof(40, 40)).toBe('This is the best possible plan with your settings.');
  expect(sayProof(40, 39.2)).toBe('A better plan could save at most 1 day of lateness in all.');
  fc.assert(
    fc.property(
      fc.double({ min: 0, max: 1e4, noNaN: true }),
      fc.double({ min: 0, max: 1, noNaN: true }),
      (cost, part) => {
        const days = /At most (\d+) day/.exec(sayProof(cost, cost * part))?.[1];
        if (days) expect(Number(days)).toBeGreaterThanOrEqual(cost - cost * part - 1e-3);
      },
    ),
  );
});

it('says what another plan brings in instruments and days, and nothing of one that brings the same', () => {
  const of = (ready: number, out: number, jobs: number, days: number) => ({
    concerts: [{ name: 'Lantern Concert', day: 9, instruments: 12, ready, waiting: [], looks: [], referred: 0 }],
    late: { jobs, worstDays: 0, overdue: 0, days },
    out: Array.from({ length: out }, (_, i) => i),
    minutes: { used: 0, there: 0 },
  });
  expect(sayBetter(of(10, 2, 3, 14), of(12, 0, 2, 9))).toEqual([
    '12 of 12 can be ready for the Lantern Concert, instead of 10.',
    '2 more tasks planned, 1 fewer task late, 5 days less lateness in all.',
  ]);
  expect(sayBetter(of(10, 2, 3, 14), of(10, 2, 3, 14))).toEqual([]);
  expect(sayBetter(of(10, 1, 3, 14), of(10, 2, 4, 15))).toEqual([
    '1 fewer task planned, 1 more task late, 1 day more lateness in all.',
  ]);
});
