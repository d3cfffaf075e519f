import type { Knex } from 'knex';
import { afterEach, beforeEach, expect, it } from 'vitest';
import { brokenRules } from '../../core/planning/check';
import { quickPlan } from '../../core/planning/quick';
import { acting, NOW, smallProgramme } from '../../tests/support/small';
import { addAvailability, setAway, shiftsAhead } from './availability';
import { setBusy } from './busy';
import { latestPlan } from './plans';
import { planInput } from './problem';
import { publishPlan } from './publish';
import { plannedSessions } from './sessions';
import { setSignOff } from './signOffs';

let db: Knex;
beforeEach(async () => {
  ({ db } = await smallProgramme());
});
afterEach(() => db.destroy());
const TODAY = '2026-03-10';
const weekly = (weekday: number, minutes = 180, starts = '09:00', personId = 1) =>
  addAvailability(db, acting(), { personId, placeId: 1, weekday, minutes, starts });

it('a week becomes shifts, without the days somebody is away, and nobody is in two places at once', async () => {
  await weekly(3);
  await expect(weekly(3, 60, '11:00')).rejects.toMatchObject({ type: 'clash' });
  await weekly(3, 60, '12:00');
  // The 10th of March 2026 is a Tuesday.
  // Both times of a day at one place are one shift.
  expect((await shiftsAhead(db, TODAY, 9)).map((s) => `${s.on} ${s.minutes}`)).toEqual([
    '2026-03-11 240',
    '2026-03-18 240',
  ]);
  await setAway(db, acting(), { personId: 1, on: '2026-03-11', why: 'ill' });
  expect((await shiftsAhead(db, TODAY, 9)).map((s) => s.on)).toEqual(['2026-03-18']);
  await setAway(db, acting(), { personId: 1, on: '2026-03-11', why: '' });
  expect(await shiftsAhead(db, TODAY, 9)).toHaveLength(2);
});

it('somebody who comes back to a place is there once, no time runs past midnight, and a teacher’s hours are nobody’s', async () => {
  await db('place').insert({ name: 'School', is_store: false, climate: 'even' });
  const at = (placeId: number, starts: string, minutes: number) =>
    addAvailability(db, acting(), { personId: 1, placeId, weekday: 3, minutes, starts });
  await at(1, '09:00', 60);
  await at(2, '10:00', 60);
  await at(1, '13:00', 90);
  const shifts = await shiftsAhead(db, TODAY, 2);
  expect(shifts.map((s) => [s.placeId, s.starts, s.minutes])).toEqual([
    [1, '09:00', 150],
    [2, '10:00', 60],
  ]);
  await expect(at(1, '23:30', 60)).rejects.toMatchObject({ type: 'past-midnight' });
  await at(1, '23:00', 60);
  await db('person').where({ id: 2 }).update({ role: 'teacher' });
  await addAvailability(db, acting(), { personId: 2, placeId: 1, weekday: 4, minutes: 60, starts: '09:00' });
  const { problem, shifts: planned } = await planInput(db, { today: TODAY, now: NOW });
  expect(planned.every((s) => s.personId === 1)).toBe(true);
  expect(problem.shifts.length).toBe(planned.length);
});

it('the problem knows loans, sign-offs and the shelf, and a plan of it breaks no rule', async () => {
  await weekly(3);
  await weekly(4, 120, '10:00', 2);
  await setBusy(db, acting(), { tag: 'AC-1', from: TODAY, to: '2026-03-12', why: 'on loan' });
  await setSignOff(db, acting(), { personId: 2, family: 'violin', level: 0 });
  const input = await planInput(db, { today: TODAY, now: NOW });
  const at = (tag: string) => input.jobs.findIndex((j) => j.tag === tag);
  expect(input.problem.jobs.length).toBeGreaterThan(0);
  if (at('AC-1') >= 0) expect(input.problem.jobs[at('AC-1')]?.release).toBe(3);
  const violins = input.groups.indexOf('violin');
  if (violins >= 0) expect(input.problem.people[1]?.skill[violins]).toBe(0);
  const plan = quickPlan(input.problem);
  expect(brokenRules(input.problem, plan)).toEqual([]);
  expect(Array.from(plan).some((s) => s >= 0)).toBe(true);
});

it('publishing is a new version: it says who is told what, and refuses a plan begun from an older one', async () => {
  await weekly(3);
  await weekly(4, 120, '10:00', 2);
  const items = (on: string, personId = 1) => {
    const item = {
      instrumentId: 1,
      // Its strings are of unknown age: it is looked at first.
      kind: 'inspection' as const,
      personId,
      placeId: 1,
      on,
      minutes: 30,
      locked: false,
      learnerId: null,
    };
    return [item];
  };
  const publish = (basedOn: number | null, on: string, personId = 1) =>
    publishPlan(db, acting(), { basedOn, items: items(on, personId) }, { today: TODAY });
  const first = await publish(null, '2026-03-11');
  expect(first.told).toEqual([{ person: 'Ann Ex', jobs: 1, added: ['AC-1'], gone: [], watches: [] }]);
  await expect(publish(null, '2026-03-12', 2)).rejects.toMatchObject({ status: 409 });
  await expect(publish(first.planId, '2026-03-13', 2)).rejects.toMatchObject({
    extra: { broken: ['AC-1: nobody is there then any more.'] },
  });
  const second = await publish(first.planId, '2026-03-12', 2);
  expect(second.told).toEqual([
    { person: 'Ann Ex', jobs: 0, added: [], gone: ['AC-1'], watches: [] },
    { person: 'Ben Wy', jobs: 1, added: ['AC-1'], gone: [], watches: [] },
  ]);
  expect(await latestPlan(db)).toMatchObject({ id: second.planId, items: [{ tag: 'AC-1', on: '2026-03-12' }] });
  const p = { today: TODAY, timeZone: 'UTC' };
  expect(await plannedSessions(db, { personId: 1 }, p)).toEqual([]);
  expect(await plannedSessions(db, { personId: 2 }, p)).toMatchObject([
    { summary: 'Strings: AC-1', place: 'Workshop' },
  ]);
  expect(await plannedSessions(db, { placeId: 1 }, p)).toMatchObject([{ summary: 'Strings: AC-1 with Ben Wy' }]);
  // Whoever stands beside to learn has it in the calendar too.
  await db('plan_job').update({ learner_id: 1 });
  expect(await plannedSessions(db, { personId: 1 }, p)).toMatchObject([{ summary: 'Watch: AC-1' }]);
});
