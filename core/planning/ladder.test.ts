import { describe, expect, it } from 'vitest';
import { LEVEL, learningSuggestions, nextStep } from './ladder';
import type { PlanJob, PlanProblem } from './model';
import { plannedVisits } from './visits';

describe('the ladder', () => {
  it('counts what is still missing for the next step; what went wrong holds it up (common practice, no source)', () => {
    const step = (level: number, watched: number, done: number, redone = 0, practised = 0) =>
      nextStep({ level, watched, done, redone, practised, unseen: 0 });
    expect(step(LEVEL.notYet, 0, 0)).toEqual({ ready: false, says: expect.stringContaining('watched 0 of the 2') });
    expect(step(LEVEL.watched, 2, 0)?.ready).toBe(true);
    // Practice stands for one time of watching, and not for both.
    expect(step(LEVEL.notYet, 1, 0, 0, 1)?.ready).toBe(true);
    expect(step(LEVEL.notYet, 0, 0, 0, 9)).toEqual({
      ready: false,
      says: expect.stringContaining('practised 9 times'),
    });
    expect(step(LEVEL.supervised, 2, 4)?.ready).toBe(false);
    expect(step(LEVEL.supervised, 2, 5)?.ready).toBe(true);
    expect(step(LEVEL.supervised, 2, 8, 3)).toEqual({
      ready: false,
      says: expect.stringContaining('go over it together'),
    });
    expect(step(LEVEL.alone, 9, 9)).toBeNull();
  });
});

const job = (id: number, more: Partial<PlanJob> = {}): PlanJob => ({
  id,
  site: 0,
  group: 0,
  sku: -1,
  minutes: [30, 45],
  release: 0,
  due: 9,
  latest: null,
  weight: 1,
  ...more,
});
const problem = (jobs: PlanJob[], level: number): PlanProblem => ({
  days: 10,
  sites: 1,
  people: [
    { helper: false, supervisor: true, skill: [4], teaches: [true] },
    { helper: true, supervisor: false, skill: [level] },
  ],
  shifts: [
    { id: 0, person: 0, day: 2, site: 0, minutes: 120 },
    { id: 1, person: 1, day: 2, site: 0, minutes: 60 },
    { id: 2, person: 0, day: 4, site: 0, minutes: 40 },
  ],
  jobs,
  skillNeeded: [3],
  underSupervision: true,
  stock: [],
  setUpMinutes: 10,
  retuneMinutes: 5,
  retuneLags: [1, 3],
  retuneGrace: 1,
  weights: { setUp: 1, missedRetune: 2, change: 1, unplannedDays: 20, wall: 3 },
});

describe('suggestions for learning', () => {
  const suggest = (jobs: PlanJob[], level: number, ...plan: number[]) =>
    learningSuggestions(problem(jobs, level), Int32Array.from(plan), 5);

  it('let a helper watch what they may not do, and do what they may under supervision', () => {
    expect(suggest([job(1)], 0, 0)).toEqual([{ helper: 1, job: 0, how: 'watch', shift: 1, beside: 0 }]);
    expect(suggest([job(1)], 2, 0)).toEqual([{ helper: 1, job: 0, how: 'do', shift: 1, beside: 0 }]);
    expect(suggest([job(1)], 3, 0)).toEqual([]);
  });

  it('leave alone what is urgent, has a wall, is locked, or when the helper is not there', () => {
    for (const more of [{ due: 4 }, { latest: 8 }, { weight: 2 }, { locked: true }])
      expect(suggest([job(1, more)], 0, 0)).toEqual([]);
    expect(suggest([job(1)], 0, 2)).toEqual([]);
    // One of a kind is enough for a day.
    expect(suggest([job(1), job(2)], 0, 0, 0)).toHaveLength(1);
  });
});

it('visits go to whoever is there with time left, those who did the job first', () => {
  const p = problem([job(1), job(2)], 3);
  // On day 3 nobody is there, and within a day's grace somebody is on day 4, who has no time but for one. Day 5 has nobody.
  const visits = plannedVisits(
    { ...p, shifts: p.shifts.map((s) => (s.id === 2 ? { ...s, minutes: 5 } : s)) },
    Int32Array.from([0, 0]),
  );
  expect(visits.map((v) => [v.day, v.shift])).toEqual([
    [4, 2],
    [4, -1],
    [5, -1],
    [5, -1],
  ]);
});
