import fc from 'fast-check';
import loadHighs, { type Highs } from 'highs';
import { beforeAll, describe, expect, it } from 'vitest';
import { generatedProgramme } from '../../tests/reference/plan/generate';
import { exactPlan } from './bound';
import { brokenByMove, brokenRules, costOf } from './check';
import { helpsMost } from './improve';
import type { Plan, PlanJob, PlanProblem } from './model';
import { polish } from './polish';
import { lowerBound } from './prices';
import { earliestDueDate, quickPlan } from './quick';
import { placedAgain, repaired } from './repair';
import { PlanSearch } from './search';
import { PlanState } from './state';

/** A small programme from a few drawn numbers. */
const problems = (jobs: number, shifts: number): fc.Arbitrary<PlanProblem> =>
  fc
    .record({
      jobs: fc.array(
        fc.record({
          site: fc.constantFrom(0, 0, 0, 1),
          group: fc.nat(2),
          sku: fc.integer({ min: -1, max: 1 }),
          base: fc.integer({ min: 15, max: 50 }),
          release: fc.nat(5),
          due: fc.integer({ min: -2, max: 9 }),
          wall: fc.option(fc.integer({ min: 3, max: 9 }), { nil: null, freq: 3 }),
          weight: fc.integer({ min: 1, max: 3 }),
          away: fc.array(fc.nat(9), { maxLength: 3 }),
          closed: fc.array(fc.nat(9), { maxLength: 2 }),
          visits: fc.constantFrom(undefined, [], [2]),
          pools: fc.constantFrom([], [2]),
        }),
        { minLength: 1, maxLength: jobs },
      ),
      shifts: fc.array(
        fc.record({
          person: fc.nat(2),
          // Few days, so that people meet on them.
          day: fc.constantFrom(1, 2, 4, 8),
          site: fc.constantFrom(0, 0, 0, 1),
          minutes: fc.constantFrom(0, 45, 60, 90, 120),
          travelMinutes: fc.constantFrom(0, 40),
          space: fc.constantFrom(undefined, 1, 2),
          begins: fc.constantFrom(undefined, undefined, 540, 600, 660),
        }),
        { minLength: 1, maxLength: shifts },
      ),
      stock: fc.tuple(fc.nat(2), fc.nat(2), fc.nat(9)),
      skill: fc.array(fc.constantFrom(0, 1, 1, 2), { minLength: 9, maxLength: 9 }),
      underSupervision: fc.constantFrom(true, true, true, false),
      supervisionShare: fc.constantFrom(undefined, 0.25, 1),
      /** Somebody who learns is always beside somebody who teaches. */
      pairs: fc.boolean(),
      retuneGrace: fc.nat(2),
      weights: fc.record({ travel: fc.nat(3), fairness: fc.constantFrom(0, 0.5, 2) }),
      setUpByGroup: fc.constantFrom(undefined, [10, 0, 5]),
    })
    .map(({ jobs, shifts: drawn, stock: [a, b, day], skill: levels, weights, pairs, ...more }) => {
      const skill = pairs ? [2, 2, 2, 1, 1, 1, 1, 1, 1] : levels;
      const shifts = drawn.map((s, i) => {
        const { day, site, begins } = drawn[i - (i % 2)] as (typeof drawn)[number];
        return pairs ? { ...s, day, site, begins, person: i % 2 } : s;
      });
      return {
        ...more,
        days: 10,
        sites: 2,
        people: [0, 1, 2].map((k) => ({
          helper: k === 2,
          supervisor: k === 0,
          skill: skill.slice(3 * k, 3 * k + 3),
          teaches: [k === 0, k < 2, true],
          workedMinutes: 60 * k,
          hadMinutes: 100,
        })),
        shifts: shifts.map(({ space, begins, ...s }, id) => ({
          ...s,
          id,
          ...(space ? { benchSpace: space } : {}),
          ...(begins ? { startsMinute: begins } : {}),
        })),
        jobs: jobs.map(
          ({ base, wall, visits, ...j }, id): PlanJob => ({
            ...j,
            ...(visits ? { visits } : {}),
            id,
            minutes: [base, base + 5, base + 20],
            latest: wall,
          }),
        ),
        // One level short there is, too: under supervision.
        skillNeeded: [0, 2, 2],
        stock: [
          { initial: a, arrivals: [{ day, packs: 1 }] },
          { initial: b, arrivals: [] },
          { initial: 2, arrivals: [{ day: 4, packs: 2 }] },
        ],
        setUpMinutes: 10,
        retuneMinutes: 5,
        retuneLags: [1, 3],
        weights: { setUp: 3, missedRetune: 2, change: 1, unplannedDays: 20, wall: 3, ...weights },
      };
    });

/** The best cost by trying every shift for every job. */
function exhaustive(p: PlanProblem): number {
  const state = new PlanState(p);
  const plan: Plan = new Int32Array(p.jobs.length).fill(-1);
  let best = Number.POSITIVE_INFINITY;
  const go = (i: number): void => {
    if (i === plan.length) {
      if (brokenRules(p, plan).length === 0) best = Math.min(best, costOf(p, plan).total);
      return;
    }
    for (let c = state.candidateFrom[i] as number; c < (state.candidateFrom[i + 1] as number); c++) {
      plan[i] = state.candidates[c] as number;
      go(i + 1);
    }
    plan[i] = -1;
    go(i + 1);
  };
  go(0);
  return best;
}

const searched = (p: PlanProblem, moves: number, seed = 7): PlanSearch => {
  const search = new PlanSearch(p, { seed, moves });
  while (!search.finished) search.run(1000);
  return search;
};

describe('plans', () => {
  it('of every solver, stopped at any moment, break no rule and cost what is said', () => {
    fc.assert(
      fc.property(problems(14, 10), fc.integer({ min: 1, max: 4000 }), (p, moves) => {
        for (const plan of [quickPlan(p), earliestDueDate(p)]) expect(brokenRules(p, plan)).toEqual([]);
        const search = new PlanSearch(p, { seed: 3, moves: 4000 });
        search.run(moves);
        expect(brokenRules(p, search.best)).toEqual([]);
        expect(search.bestCost).toBeCloseTo(costOf(p, search.best).total, 6);
        expect(search.bestCost).toBeLessThanOrEqual(costOf(p, quickPlan(p)).total + 1e-9);
      }),
      { numRuns: 60 },
    );
  });

  it('of a whole programme of two thousand jobs hold as well', () => {
    const p = generatedProgramme(2000, 20417);
    const quick = quickPlan(p);
    const search = new PlanSearch(p, { seed: 1, moves: 60_000, start: quick });
    search.run(60_000);
    for (const plan of [quick, earliestDueDate(p), search.best]) expect(brokenRules(p, plan)).toEqual([]);
    expect(search.bestCost).toBeCloseTo(costOf(p, search.best).total, 6);
    expect(search.bestCost).toBeLessThan(costOf(p, quick).total);
    expect(costOf(p, quick).total).toBeLessThan(costOf(p, earliestDueDate(p)).total);
  });

  it('are the best there is on small programmes, and the same for the same seed', () => {
    fc.assert(
      fc.property(problems(5, 5), (p) => {
        const best = exhaustive(p);
        const search = searched(p, 30_000);
        expect(search.bestCost).toBeCloseTo(best, 6);
        expect(Array.from(searched(p, 30_000).best)).toEqual(Array.from(search.best));
      }),
      { numRuns: 60 },
    );
  });

  it('broken by what changed are mended: what still fits stays, and nothing is broken', () => {
    fc.assert(
      fc.property(problems(12, 8), fc.nat(7), fc.nat(11), (p, shift, job) => {
        const plan = searched(p, 2000).best;
        const i = job % p.jobs.length;
        // Somebody is away, and an instrument is lent.
        const after = {
          ...p,
          shifts: p.shifts.map((s, k) => (k === shift % p.shifts.length ? { ...s, minutes: 0 } : s)),
          jobs: p.jobs.map((j, k) => (k === i ? { ...j, release: 9 } : j)),
        };
        const mended = repaired(after, plan);
        expect(brokenRules(after, mended.plan)).toEqual([]);
        for (let k = 0; k < plan.length; k++)
          if (!mended.freed.includes(k) && (plan[k] as number) >= 0) expect(mended.plan[k]).toBe(plan[k]);
        // What lost its place finds another while all others stay.
        const again = placedAgain(after, mended.plan, mended.freed);
        expect(brokenRules(after, again)).toEqual([]);
        for (let k = 0; k < plan.length; k++) if (!mended.freed.includes(k)) expect(again[k]).toBe(mended.plan[k]);
        if (brokenRules(after, plan).length === 0) expect(Array.from(mended.plan)).toEqual(Array.from(plan));
      }),
      { numRuns: 60 },
    );
  });

  it('leave locked jobs where they are', () => {
    fc.assert(
      fc.property(problems(10, 8), (p) => {
        const before = searched(p, 4000).best;
        const locked = {
          ...p,
          jobs: p.jobs.map((j, i) => ({ ...j, published: before[i] as number, locked: i % 2 === 0 })),
        };
        const after = searched(locked, 4000).best;
        expect(brokenRules(locked, after)).toEqual([]);
        for (let i = 0; i < after.length; i += 2) expect(after[i]).toBe(before[i]);
      }),
      { numRuns: 30 },
    );
  });
});

describe('the checker', () => {
  const job = (more: Partial<PlanJob> = {}): PlanJob => ({
    id: 1,
    site: 0,
    group: 0,
    sku: -1,
    minutes: [30, 30],
    release: 0,
    due: 5,
    latest: null,
    weight: 1,
    ...more,
  });
  const base = (jobs: PlanJob[], more: Partial<PlanProblem> = {}): PlanProblem => ({
    days: 10,
    sites: 2,
    people: [
      { helper: false, supervisor: true, skill: [1] },
      { helper: true, supervisor: false, skill: [1] },
    ],
    shifts: [
      { id: 0, person: 0, day: 4, site: 0, minutes: 60 },
      { id: 1, person: 1, day: 6, site: 0, minutes: 60 },
    ],
    jobs,
    skillNeeded: [1],
    stock: [{ initial: 1, arrivals: [] }],
    setUpMinutes: 10,
    retuneMinutes: 5,
    retuneLags: [],
    weights: { setUp: 3, missedRetune: 2, change: 1, unplannedDays: 20, wall: 3 },
    ...more,
  });
  const rules = (p: PlanProblem, ...plan: number[]) => brokenRules(p, Int32Array.from(plan)).map((b) => b.rule);

  it('finds each rule that is broken on purpose, and only that', () => {
    expect(rules(base([job()]), 0)).toEqual([]);
    expect(rules(base([job({ site: 1 })]), 0)).toEqual(['site']);
    expect(rules(base([job({ release: 5 })]), 0)).toEqual(['release']);
    expect(rules(base([job({ latest: 3 })]), 0)).toEqual(['latest']);
    expect(rules(base([job({ away: [4] })]), 0)).toEqual(['away']);
    expect(rules(base([job({ closed: [0] })]), 0)).toEqual(['away']);
    expect(rules(base([job()], { skillNeeded: [2] }), 0)).toEqual(['skill']);
    expect(rules(base([job()]), 1)).toEqual(['supervision']);
    expect(rules(base([job(), job()]), 0, 0)).toEqual(['minutes']);
    expect(rules(base([job({ sku: 0, minutes: [10, 10] }), job({ sku: 0, minutes: [10, 10] })]), 0, 0)).toEqual([
      'stock',
    ]);
    expect(rules(base([job({ published: 0, locked: true })]), -1)).toEqual(['locked']);
    expect(rules(base([job()]), 7)).toEqual(['unknown']);
    // One level short: only beside somebody who teaches it.
    const learning = { skillNeeded: [2], underSupervision: true };
    expect(rules(base([job()], learning), 0)).toEqual(['supervision']);
    const pair = [0, 1].map((k) => ({ helper: false, supervisor: true, skill: [1 + k], teaches: [k === 1] }));
    const beside = [0, 1].map((k) => ({ id: k, person: k, day: 4, site: 0, minutes: 60 }));
    expect(rules(base([job()], { ...learning, people: pair, shifts: beside }), 0)).toEqual([]);
    // Whoever stands by gives their minutes: 60 are there, 30 their own work takes.
    const share = (supervisionShare: number) =>
      base([job({ minutes: [60, 20] }), job()], {
        ...learning,
        people: pair,
        supervisionShare,
        setUpMinutes: 0,
        shifts: beside,
      });
    expect(rules(share(0.5), 0, 1)).toEqual([]);
    expect(rules(share(0.51), 0, 1)).toEqual(['minutes']);
    // A pack that comes later serves a job that is done later.
    const later = base([job({ sku: 0 }), job({ sku: 0 })], {
      stock: [{ initial: 1, arrivals: [{ day: 6, packs: 1 }] }],
      people: [0, 1].map(() => ({ helper: false, supervisor: true, skill: [1] })),
    });
    expect(rules(later, 0, 1)).toEqual([]);
  });

  it('finds whatever a random change of a good plan breaks: the solvers’ count and its own agree', () => {
    fc.assert(
      fc.property(problems(10, 8), fc.nat(9), fc.nat(7), (p, which, to) => {
        const plan = quickPlan(p);
        const i = which % p.jobs.length;
        const s = to % p.shifts.length;
        const state = new PlanState(p);
        state.load(plan);
        if ((plan[i] as number) >= 0) state.take(i);
        const from = Array.from(
          state.candidates.subarray(state.candidateFrom[i] as number, state.candidateFrom[i + 1] as number),
        );
        const may = from.includes(s) && state.fits(i, s);
        const free = plan.slice();
        free[i] = -1;
        expect(brokenByMove(p, free, i, s).length === 0).toBe(may);
        plan[i] = s;
        expect(brokenRules(p, plan).length === 0).toBe(may);
      }),
      { numRuns: 200 },
    );
  });
});

describe('programs', () => {
  let highs: Highs;
  beforeAll(async () => {
    highs = await loadHighs();
  });

  it('solve pieces of a plan: never worse, never broken, and the best where a piece is all of it', () => {
    fc.assert(
      fc.property(problems(6, 5), (p) => {
        const start = quickPlan(p);
        let best = costOf(p, start).total;
        for (const better of polish(highs, p, start, { seed: 1, rounds: 3 })) {
          expect(brokenRules(p, better.plan)).toEqual([]);
          expect(better.cost).toBeCloseTo(costOf(p, better.plan).total, 6);
          expect(better.cost).toBeLessThan(best);
          best = better.cost;
        }
        // Fairness and rounded visits are not in the program: without them it is exact.
        const plain = { ...p, retuneLags: [], jobs: p.jobs.map((j) => ({ ...j, visits: [] })) };
        const linear = { ...plain, weights: { ...p.weights, fairness: 0 } };
        const found = [...polish(highs, linear, quickPlan(linear), { seed: 1, rounds: 2 })].at(-1);
        expect(found?.cost ?? costOf(linear, quickPlan(linear)).total).toBeCloseTo(exhaustive(linear), 4);
      }),
      { numRuns: 60 },
    );
  });

  /** A bound after some rounds, aimed at the cost of a plan. */
  const boundAfter = (p: PlanProblem, plan: Plan, rounds: number): number =>
    lowerBound(p, { plan, cost: costOf(p, plan).total, part: (n) => n / rounds }).bound;

  it('are never below a bound, however many rounds its prices were given, and whatever plan it was aimed at', () => {
    const p = generatedProgramme(300, 7);
    const search = searched(p, 60_000);
    for (const rounds of [1, 10, 100, 400])
      for (const aimed of [search.best, quickPlan(p), new Int32Array(p.jobs.length).fill(-1)])
        expect(boundAfter(p, aimed, rounds), `${rounds} rounds`).toBeLessThanOrEqual(search.bestCost + 1e-6);
    fc.assert(
      fc.property(problems(12, 8), fc.constantFrom(1, 5, 40), (small, rounds) => {
        const { best, bestCost } = searched(small, 3000);
        expect(boundAfter(small, best, rounds)).toBeLessThanOrEqual(bestCost + 1e-6);
        expect(boundAfter(small, quickPlan(small), rounds)).toBeLessThanOrEqual(bestCost + 1e-6);
      }),
      { numRuns: 60 },
    );
  });

  it('bound every plan from below, near the best of a small programme', () => {
    let gap = 0;
    let seen = 0;
    fc.assert(
      fc.property(problems(5, 5), (p) => {
        const best = exhaustive(p);
        const bound = boundAfter(p, quickPlan(p), 300);
        expect(bound).toBeLessThanOrEqual(best + 1e-6);
        // One integer program over everything, whose room for visits is not rounded down.
        const exact = exactPlan(highs, p, { seconds: 5, start: quickPlan(p) });
        expect(exact?.bound).toBeLessThanOrEqual(best + 1e-3);
        if (exact) expect(brokenRules(p, exact.plan)).toEqual([]);
        gap += best > 0 ? (best - bound) / best : 0;
        seen += 1;
      }),
      { numRuns: 60 },
    );
    expect(gap / seen).toBeLessThan(0.06);
  });
});

it('help what they say: with an hour or a pack more the plan holds, and is so many points better than without', () => {
  const p = generatedProgramme(120, 11);
  const { best, bestCost } = searched(p, 40_000);
  const bound = lowerBound(p, { plan: best, cost: bestCost, part: (n) => n / 200 });
  const helps = helpsMost(p, best, bound, 1);
  expect(helps.length).toBeGreaterThan(0);
  for (const { what, plan, without, points } of helps) {
    const more: PlanProblem =
      'shift' in what
        ? { ...p, shifts: p.shifts.map((s, i) => (i === what.shift ? { ...s, minutes: s.minutes + what.minutes } : s)) }
        : { ...p, stock: p.stock.map((s, i) => (i === what.sku ? { ...s, initial: s.initial + what.packs } : s)) };
    expect(brokenRules(more, plan)).toEqual([]);
    expect(brokenRules(p, without)).toEqual([]);
    expect(points).toBeCloseTo(costOf(p, without).total - costOf(more, plan).total, 6);
  }
});
