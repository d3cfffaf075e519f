import type { Knex } from 'knex';
import { afterEach, beforeEach, expect, it } from 'vitest';
import { brokenRules } from '../../core/planning/check';
import { usedMinutes } from '../../core/planning/model';
import { quickPlan } from '../../core/planning/quick';
import { acting, NOW, smallProgramme } from '../../tests/support/small';
import { setAside } from './aside';
import { addAvailability, setAway, setTravel } from './availability';
import { setBusy } from './busy';
import { latestPlan } from './plans';
import { planInput } from './problem';
import { publishPlan } from './publish';
import { plannedSessions, sessionsToday } from './sessions';
import { shiftsAhead } from './shifts';
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
  // Times that follow on each other are one shift.
  expect((await shiftsAhead(db, TODAY, 9)).map((s) => `${s.on} ${s.minutes}`)).toEqual([
    '2026-03-11 240',
    '2026-03-18 240',
  ]);
  await setAway(db, acting(), { personId: 1, on: '2026-03-11', why: 'ill' });
  expect((await shiftsAhead(db, TODAY, 9)).map((s) => s.on)).toEqual(['2026-03-18']);
  await setAway(db, acting(), { personId: 1, on: '2026-03-11', why: '' });
  expect(await shiftsAhead(db, TODAY, 9)).toHaveLength(2);
});

it('a shift is one time of one person at one place: with a gap they are two, with the way home after the last', async () => {
  await db('place').insert({ name: 'School', is_store: false, climate: 'even' });
  const at = (placeId: number, starts: string, minutes: number, weekday = 3) =>
    addAvailability(db, acting(), { personId: 1, placeId, weekday, minutes, starts });
  await at(1, '09:00', 60);
  await at(2, '10:00', 60);
  await at(1, '13:00', 90);
  await at(2, '16:00', 60);
  await setTravel(db, acting(), { fromId: 1, toId: 2, minutes: 15 });
  const shifts = await shiftsAhead(db, TODAY, 2);
  expect(shifts.map((s) => [s.placeId, s.starts, s.minutes, s.travelMinutes])).toEqual([
    [1, '09:00', 60, 0],
    [2, '10:15', 45, 15],
    [1, '13:00', 90, 15],
    [2, '16:00', 60, 30],
  ]);
  expect(new Set(shifts.map((s) => s.id)).size).toBe(4);
  await expect(at(1, '23:30', 60)).rejects.toMatchObject({ type: 'past-midnight' });
  await at(1, '23:00', 60);
  await db('person').where({ id: 2 }).update({ role: 'teacher' });
  await addAvailability(db, acting(), { personId: 2, placeId: 1, weekday: 4, minutes: 60, starts: '09:00' });
  const { problem, shifts: planned } = await planInput(db, { today: TODAY, now: NOW });
  expect(planned.every((s) => s.personId === 1)).toBe(true);
  expect(problem.shifts.length).toBe(planned.length);
});

it('a shift has as many minutes as pass between its ends, also where the clocks change', async () => {
  await db('programme').update({ time_zone: 'Europe/Berlin' });
  await weekly(7, 300, '01:00');
  // On 29 March 2026 it is three o’clock after one minute to two (IANA tz database).
  const [before, change] = await shiftsAhead(db, '2026-03-22', 8);
  expect([before?.minutes, change?.minutes]).toEqual([300, 240]);
  expect(new Date(change?.startsAt ?? 0).toISOString()).toBe('2026-03-29T00:00:00.000Z');
  expect(new Date(change?.endsAt ?? 0).toISOString()).toBe('2026-03-29T04:00:00.000Z');
});

it('two sessions of a day at one place are planned, published and shown apart, also when the first has begun', async () => {
  await weekly(3, 60, '09:00');
  await weekly(3, 60, '13:00');
  const at = (time: string) => Date.parse(`2026-03-11T${time}:00Z`);
  const item = (instrumentId: number, time: string) => ({
    instrumentId,
    kind: 'inspection' as const,
    personId: 1,
    placeId: 1,
    on: '2026-03-11',
    startsAt: at(time),
    minutes: 10,
    locked: false,
    learnerId: null,
  });
  const items = [item(1, '09:00'), item(2, '13:00'), item(3, '13:00')];
  await publishPlan(db, acting(), { basedOn: null, items }, { today: TODAY });
  const p = { today: TODAY, timeZone: 'UTC' };
  expect((await plannedSessions(db, { personId: 1 }, p)).map((s) => [s.start, s.tags])).toEqual([
    [at('09:00'), ['AC-1']],
    [at('13:00'), ['UK-1', 'UK-2']],
  ]);
  const today = await sessionsToday(db, { placeId: 1, personId: 1, today: '2026-03-11' });
  expect(today.map((s) => [s.startsAt, s.minutes])).toEqual([
    [at('09:00'), 10],
    [at('13:00'), 20],
  ]);
  const stands = async (time: string) => {
    const { jobs, problem, shifts } = await planInput(db, { today: '2026-03-11', now: at(time) });
    return ['AC-1', 'UK-1'].map((tag) => {
      const n = jobs.findIndex((j) => j.tag === tag);
      return [shifts[problem.jobs[n]?.published ?? -1]?.starts ?? null, jobs[n]?.cameBack?.person ?? null];
    });
  };
  expect(await stands('09:30')).toEqual([
    ['09:30', null],
    ['13:00', null],
  ]);
  expect(await stands('11:00')).toEqual([
    [null, 'Ann Ex'],
    ['13:00', null],
  ]);
  // Hours were changed since: the nearest time of that day is where it stands.
  await db('availability').where({ starts: '13:00' }).update({ starts: '14:00' });
  expect(await stands('11:00')).toEqual([
    [null, 'Ann Ex'],
    ['14:00', null],
  ]);
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
      startsAt: Date.parse(`${on}T09:00:00Z`),
      minutes: 30,
      locked: false,
      learnerId: null,
    };
    return [item];
  };
  const publish = (basedOn: number | null, on: string, personId = 1) =>
    publishPlan(db, acting(), { basedOn, items: items(on, personId) }, { today: TODAY });
  const first = await publish(null, '2026-03-11');
  expect(first.told).toMatchObject([
    { personId: 1, sessions: [{ on: '2026-03-11', jobs: 1, added: [{ tag: 'AC-1', from: null }] }] },
  ]);
  await expect(publish(null, '2026-03-12', 2)).rejects.toMatchObject({ status: 409 });
  await expect(publish(first.planId, '2026-03-13', 2)).rejects.toMatchObject({
    extra: { broken: ['AC-1: nobody is working then any more.'] },
  });
  const second = await publish(first.planId, '2026-03-12', 2);
  expect(second.told).toMatchObject([
    { personId: 1, sessions: [{ on: '2026-03-11', jobs: 0, gone: [{ tag: 'AC-1', to: { personId: 2 } }] }] },
    { personId: 2, sessions: [{ on: '2026-03-12', jobs: 1, added: [{ tag: 'AC-1', from: { personId: 1 } }] }] },
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

it('whoever stands by gives their minutes: the plan counts them, and their calendar and Today say for whom', async () => {
  await db('person').where({ id: 2 }).update({ role: 'helper' });
  await weekly(3, 60);
  await weekly(3, 60, '09:00', 2);
  const startsAt = Date.parse('2026-03-11T09:00:00Z');
  const item = (instrumentId: number, personId: number) => ({
    instrumentId,
    kind: 'inspection' as const,
    personId,
    placeId: 1,
    on: '2026-03-11',
    startsAt,
    minutes: 10,
    locked: false,
    learnerId: null,
  });
  await publishPlan(db, acting(), { basedOn: null, items: [item(1, 2), item(2, 1)] }, { today: TODAY });
  const p = { today: TODAY, timeZone: 'UTC' };
  expect(await plannedSessions(db, { personId: 1 }, p)).toMatchObject([
    {
      summary: 'Strings: UK-1; Supervise: AC-1',
      jobs: [
        { tag: 'UK-1', minutes: 10 },
        { tag: 'AC-1', says: 'supervise Ben Wy: inspection', minutes: 3 },
      ],
    },
  ]);
  expect(await plannedSessions(db, { personId: 2 }, p)).toMatchObject([{ summary: 'Strings: AC-1' }]);
  const today = await sessionsToday(db, { placeId: 1, personId: 1, today: '2026-03-11' });
  expect(today.map((s) => [s.person, s.supervisors])).toEqual([
    ['Ann Ex', []],
    ['Ben Wy', ['Ann Ex']],
  ]);
  const { problem, shifts } = await planInput(db, { today: TODAY, now: NOW });
  const plan = Int32Array.from(problem.jobs, (j) => j.published ?? -1);
  const own = shifts.findIndex((s) => s.personId === 1 && s.on === '2026-03-11');
  expect(usedMinutes(problem, plan)[own]).toBe((problem.jobs.find((j) => j.id === 2)?.minutes[0] ?? 0) + 3);
});

it('a job of today’s session is set aside by whoever has it: it leaves the session, comes back to the plan with the reason, and nothing is recorded', async () => {
  await weekly(2);
  await db('person').where({ id: 2 }).update({ role: 'helper' });
  const instrument = await db('instrument').where({ tag: 'AC-1' }).first('id');
  const [plan] = await db('plan').insert({ person_id: 1, published_at: NOW, cost: 0, bound: null }).returning('id');
  await db('plan_job').insert({
    plan_id: plan?.id ?? 0,
    instrument_id: instrument?.id ?? 0,
    kind: 'inspection',
    person_id: 1,
    place_id: 1,
    on_day: TODAY,
    minutes: 10,
    locked: false,
    learner_id: null,
    starts_at: NOW,
  });
  const aside = (personId: number, why: '' | 'no-room' | 'elsewhere', on = TODAY) =>
    setAside(db, acting(personId), { tag: 'AC-1', kind: 'inspection', why }, { today: on });
  const sessions = () => sessionsToday(db, { placeId: 1, personId: 1, today: TODAY });
  const stands = async () => {
    const input = await planInput(db, { today: TODAY, now: NOW });
    const n = input.jobs.findIndex((j) => j.tag === 'AC-1' && j.kind === 'inspection');
    return { cameBack: input.jobs[n]?.cameBack?.aside ?? null, published: input.problem.jobs[n]?.published };
  };
  expect(await sessions()).toMatchObject([{ others: [{ tag: 'AC-1' }], aside: [] }]);
  expect((await stands()).cameBack).toBeNull();
  // A helper says it of their own alone, and nobody of another day.
  await expect(aside(2, 'no-room')).rejects.toMatchObject({ type: 'not-yours' });
  await expect(aside(1, 'no-room', '2026-03-11')).rejects.toMatchObject({ type: 'not-today' });

  const records = await db('change_record').count({ n: '*' });
  await aside(1, 'elsewhere');
  expect(await sessions()).toMatchObject([{ others: [], jobs: [], aside: [{ tag: 'AC-1', why: 'elsewhere' }] }]);
  expect(await stands()).toEqual({ cameBack: 'elsewhere', published: -1 });
  expect(await plannedSessions(db, { personId: 1 }, { today: TODAY, timeZone: 'UTC' })).toEqual([]);
  expect(await db('change_record').count({ n: '*' })).toEqual(records);
  await aside(1, '');
  expect(await sessions()).toMatchObject([{ others: [{ tag: 'AC-1' }], aside: [] }]);
  expect((await stands()).cameBack).toBeNull();
});
