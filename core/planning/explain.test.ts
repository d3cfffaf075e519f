import { describe, expect, it } from 'vitest';
import { explainJob, minutesLeft, type PlanNames } from './explain';
import type { PlanJob, PlanProblem } from './model';

const names: PlanNames = {
  job: (n) => `J${n}`,
  person: (n) => ['Ann', 'Ben'][n] ?? '',
  site: (n) => ['Hall', 'Bay'][n] ?? '',
  sku: () => 'light set',
  group: () => 'double basses',
  day: (n) => `day ${n}`,
  releaseWhy: () => 'on loan until then',
  closedWhy: () => 'class 5b',
  wallWhy: () => 'the concert',
};
const job = (more: Partial<PlanJob> = {}): PlanJob => ({
  id: 0,
  site: 0,
  group: 0,
  sku: 0,
  minutes: [30, 30],
  release: 0,
  due: 3,
  latest: null,
  weight: 1,
  ...more,
});
const problem = (jobs: PlanJob[], more: Partial<PlanProblem> = {}): PlanProblem => ({
  days: 10,
  sites: 2,
  people: [
    { helper: false, supervisor: true, skill: [2] },
    { helper: false, supervisor: true, skill: [0] },
  ],
  shifts: [
    { id: 0, person: 0, day: 2, site: 0, minutes: 45 },
    { id: 1, person: 1, day: 3, site: 0, minutes: 120 },
    { id: 2, person: 0, day: 6, site: 0, minutes: 120 },
  ],
  jobs,
  skillNeeded: [2],
  stock: [{ initial: 5, arrivals: [] }],
  setUpMinutes: 10,
  retuneMinutes: 5,
  retuneLags: [],
  weights: { setUp: 3, missedRetune: 2, change: 1, unplannedDays: 20, wall: 3 },
  ...more,
});
const why = (p: PlanProblem, ...plan: number[]) => explainJob(p, Int32Array.from(plan), 0, names);

describe('why a job stands where it does', () => {
  it('names the loan, the delivery, who is full and who may', () => {
    expect(why(problem([job({ release: 5 })]), 2).because[0]).toBe(
      'It is not available before day 5: on loan until then.',
    );
    const late = problem([job()], { stock: [{ initial: 0, arrivals: [{ day: 6, packs: 1 }] }] });
    expect(why(late, 2).because).toContain('light set arrives day 6.');
    expect(why(late, 2).wouldHelp).toContain('One more light set before day 6.');
    expect(why(problem([job({ closed: [0] })]), 2).because[0]).toBe('Not available in 1 session before: class 5b.');
    const full = problem([job(), job({ id: 1 })]);
    expect(why(full, 2, 0).because).toContain('Ann is fully booked at Hall until day 2.');
    expect(why(full, 2, 0).wouldHelp).toContain('25 more minutes at Hall before then.');
    expect(minutesLeft(full, Int32Array.from([2, 0]), 0, 0)).toBe(-25);
    const nobody = problem([job()], { skillNeeded: [3] });
    expect(why(nobody, -1).because).toContain('Nobody is signed off for double basses.');
  });

  it('says where it stands, how late, and when nothing earlier is open', () => {
    expect(why(problem([job({ due: 3 })]), 2).stands).toBe('day 6 at Hall with Ann, 3 days late');
    expect(why(problem([job({ due: 6 })]), 2).stands).toBe('day 6 at Hall with Ann, on time');
    expect(why(problem([job({ site: 1 })]), -1)).toMatchObject({
      stands: 'not planned',
      because: ['Nobody is on the rota at Bay.'],
    });
    expect(why(problem([job({ release: 2 })]), 0).because[0]).toBe(
      'It is not available before day 2: on loan until then.',
    );
    expect(why(problem([job({ latest: 6, due: 8 })]), 2).because).toContain('It has to be done by day 6: the concert.');
    const packs = problem([job(), job({ id: 1 })], { stock: [{ initial: 1, arrivals: [] }] });
    expect(why(packs, -1, 2).because).toContain('light set: everything in stock and on order is reserved.');
  });
});
