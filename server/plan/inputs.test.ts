import type { Knex } from 'knex';
import { afterEach, beforeEach, expect, it } from 'vitest';
import { acting, houseEntries, NOW, smallProgramme } from '../../tests/support/small';
import { finishJob } from '../bench/finish';
import { openJob } from '../bench/jobs';
import { askedOf, standBy } from '../bench/supervised';
import { editDetails } from '../fleet/details';
import { reportTrouble } from '../fleet/report';
import { addAvailability, setBenchSpace, setLastWay, setTravel } from './availability';
import { setBusy } from './busy';
import { importCalendar } from './calendar';
import { addConcert, removeConcert } from './concerts';
import { effortsOf } from './efforts';
import { addHoliday, removeHoliday } from './holidays';
import { planInput } from './problem';
import { requestJob } from './requests';
import { shiftsAhead } from './shifts';
import { learnedOf, loadSignOffs, setSignOff } from './signOffs';
import { saveWeights } from './weights';

let db: Knex;
const TODAY = '2026-03-10';
const DAY = 86_400_000;
beforeEach(async () => {
  ({ db } = await smallProgramme());
  await addAvailability(db, acting(), { personId: 1, placeId: 1, weekday: 3, minutes: 180, starts: '09:00' });
});
afterEach(() => db.destroy());

/** Changes all strings of an instrument, so many minutes' work, some days ago. */
async function changed(tag: string, minutes: number, daysAgo: number, personId = 1): Promise<void> {
  const by = () => acting(personId, undefined, NOW - daysAgo * DAY);
  const { jobId } = await openJob(db, by(), { tag });
  await finishJob(db, by(), {
    jobId,
    expectedVersion: 1,
    entries: (await houseEntries(db, tag)).map((e) => ({ ...e, found: true })),
    discard: [],
    notes: '',
    minutes,
  });
}
const jobOf = async (tag: string, kind = 'change', today = TODAY) => {
  const input = await planInput(db, { today, now: NOW });
  const at = input.jobs.findIndex((j) => j.tag === tag && j.kind === kind);
  return { input, job: input.problem.jobs[at], about: input.jobs[at] };
};

it('nobody works on holidays, and the way between two places is cut off the second', async () => {
  await db('place').insert({ id: 2, name: 'Far Hall', is_store: false });
  await addAvailability(db, acting(), { personId: 1, placeId: 2, weekday: 3, minutes: 60, starts: '12:20' });
  await setTravel(db, acting(), { fromId: 2, toId: 1, minutes: 50 });
  expect((await shiftsAhead(db, TODAY, 7)).map((s) => [s.placeId, s.starts, s.minutes])).toEqual([
    [1, '09:00', 180],
    [2, '12:50', 30],
  ]);
  // Whoever is based elsewhere leaves with the last way back; whoever is based there stays.
  await setLastWay(db, acting(), { placeId: 2, leaves: '13:10', was: '' });
  await setLastWay(db, acting(), { placeId: 1, leaves: '10:00' });
  expect((await shiftsAhead(db, TODAY, 7)).map((s) => [s.placeId, s.starts, s.minutes])).toEqual([
    [1, '09:00', 180],
    [2, '12:50', 20],
  ]);
  await setLastWay(db, acting(), { placeId: 2, leaves: '12:50' });
  expect((await shiftsAhead(db, TODAY, 7)).map((s) => s.placeId)).toEqual([1]);
  await expect(setLastWay(db, acting(), { placeId: 2, leaves: '', was: '13:10' })).rejects.toThrow('12:50');
  await setLastWay(db, acting(), { placeId: 2, leaves: '' });
  const { holidayId } = await addHoliday(db, acting(), {
    from: TODAY,
    to: '2026-03-12',
    name: 'Half term',
    placeId: 1,
  });
  expect((await shiftsAhead(db, TODAY, 7)).map((s) => s.placeId)).toEqual([2]);
  await removeHoliday(db, acting(), { id: holidayId });
  await addHoliday(db, acting(), { from: TODAY, to: '2026-03-12', name: 'Storm', placeId: null });
  expect(await shiftsAhead(db, TODAY, 7)).toEqual([]);
});

it('a small bench means setting up again, and the plan counts with it', async () => {
  await setBenchSpace(db, acting(), { placeId: 1, instruments: 2 });
  expect((await planInput(db, { today: TODAY, now: NOW })).problem.shifts[0]?.benchSpace).toBe(2);
  // Somebody else at the same bench has their part of it.
  await addAvailability(db, acting(), { personId: 2, placeId: 1, weekday: 3, minutes: 60, starts: '11:00' });
  await setBenchSpace(db, acting(), { placeId: 1, instruments: 1 });
  const { problem, shifts } = await planInput(db, { today: TODAY, now: NOW });
  expect(problem.shifts.slice(0, 2).map((s, i) => [shifts[i]?.starts, s.minutes, s.benchSpace])).toEqual([
    ['09:00', 150, 1],
    ['11:00', 30, 1],
  ]);
  await setBenchSpace(db, acting(), { placeId: 1, instruments: 0 });
  expect((await planInput(db, { today: TODAY, now: NOW })).problem.shifts[0]?.benchSpace).toBeUndefined();
});

it('an instrument that takes two is for sessions in which somebody else is there as well', async () => {
  const details = (takesTwo: 'one' | 'two') =>
    db('instrument')
      .where({ tag: 'VN-1' })
      .first()
      .then((i) =>
        editDetails(db, acting(), {
          tag: 'VN-1',
          expectedVersion: i?.version ?? 0,
          newTag: 'VN-1',
          placeId: i?.place_id ?? 0,
          holder: '',
          note: '',
          takesTwo,
        }),
      );
  await requestJob(db, acting(), { tag: 'VN-1', kind: 'service', dueOn: '2026-03-12', why: 'before the play' });
  expect((await jobOf('VN-1', 'service')).job).toMatchObject({ due: 2 });
  expect((await jobOf('VN-1', 'service')).job?.closed).toBeUndefined();
  await details('two');
  const alone = await jobOf('VN-1', 'service');
  expect(alone.job?.closed).toEqual(alone.input.shifts.map((_, i) => i));
  expect(alone.about?.closed[0]?.why).toContain('takes two people');
  // Somebody comes for the last half hour of the first's time, every week.
  await addAvailability(db, acting(), { personId: 2, placeId: 1, weekday: 3, minutes: 60, starts: '11:30' });
  expect((await jobOf('VN-1', 'service')).job?.closed).toBeUndefined();
  await details('one');
  expect((await jobOf('VN-1', 'service')).job?.closed).toBeUndefined();
});

it('lessons every week take their days, and a broken string is due before the next one', async () => {
  const weekly = ['DTSTART:20260311T090000', 'DTEND:20260311T115500', 'RRULE:FREQ=WEEKLY', 'SUMMARY:Lesson on VN-1'];
  const text = `BEGIN:VCALENDAR\r\nVERSION:2.0\r\nBEGIN:VEVENT\r\nUID:x\r\nDTSTAMP:20260101T000000Z\r\n${weekly.join('\r\n')}\r\nEND:VEVENT\r\nEND:VCALENDAR\r\n`;
  await importCalendar(db, acting(), {
    text,
    about: 'lessons',
    source: 'week.ics',
    today: TODAY,
    timeZone: 'UTC',
  });
  const { job, about } = await jobOf('VN-1', 'inspection');
  const { shifts } = await planInput(db, { today: TODAY, now: NOW });
  expect(job?.closed?.map((s) => shifts[s]?.on)).toEqual(['2026-03-11', '2026-03-18', '2026-03-25', '2026-04-01']);
  expect(about?.closed[0]?.why).toContain('Lesson on VN-1');
  await reportTrouble(db, acting(), { tag: 'VN-1', kind: 'broken', numbers: [1], text: 'The E snapped.' });
  const broken = await jobOf('VN-1');
  expect(broken.about?.wallWhy).toMatch(/needed for a lesson on Wed 18 Mar, and its strings need 3 days to settle/);
  expect(broken.job?.latest).toBe(5);
});

it('new strings do not go on the day before a lesson that takes a whole day, where there is another', async () => {
  await addAvailability(db, acting(), { personId: 1, placeId: 1, weekday: 4, minutes: 120, starts: '09:00' });
  await changed('AC-1', 20, 200);
  const closedOn = async () => {
    const { problem, shifts } = await planInput(db, { today: TODAY, now: NOW });
    const job = problem.jobs.find((j) => j.visits?.length && j.id === 1);
    return [job?.away, job?.closed?.map((s) => shifts[s]?.on)];
  };
  expect(await closedOn()).toEqual([undefined, undefined]);
  // The 13th of March 2026 is a Friday; on Wednesdays and Thursdays somebody is there.
  await setBusy(db, acting(), {
    tag: 'AC-1',
    from: '2026-03-13',
    to: '2026-03-13',
    why: 'a day of 5b',
    kind: 'lesson',
  });
  expect(await closedOn()).toEqual([[3], ['2026-03-12']]);
});

it('a concert is a wall that settling stands in front of; taken off, it is gone', async () => {
  await changed('AC-1', 20, 200);
  const before = (await jobOf('AC-1')).about?.dueOn;
  const { concertId, instruments } = await addConcert(
    db,
    acting(),
    { name: 'Spring', on: '2026-03-20', placeId: 1, who: 'ac-1, class set' },
    'UTC',
  );
  expect(instruments).toBe(4);
  const { job, about } = await jobOf('AC-1');
  expect(job?.latest).toBe(9);
  expect(about?.wallWhy).toContain('Spring is on Fri 20 Mar');
  await removeConcert(db, acting(), { id: concertId }, 'UTC');
  expect((await jobOf('AC-1')).job?.latest).toBeNull();
  expect((await jobOf('AC-1')).about?.dueOn).toBe(before);
  await expect(
    addConcert(db, acting(), { name: 'No', on: '2026-03-20', placeId: null, who: 'zz-9' }, 'UTC'),
  ).rejects.toMatchObject({ type: 'who' });
});

it('minutes that were recorded are what the plan counts with, by person and family', async () => {
  await changed('AC-1', 60, 300, 1);
  const usual = (await effortsOf(db, TODAY)).of(2, 'steel-acoustic', 30).minutes;
  for (let i = 0; i < 8; i++) await changed('AC-1', 75, 290 - 10 * i, 1);
  const { job, about } = await jobOf('AC-1', 'change', '2026-09-01');
  const [slow, other] = job?.minutes ?? [];
  expect(slow).toBeGreaterThan(1.2 * usual);
  expect(slow).toBeGreaterThan(other as number);
  expect(about?.range.low).toBeLessThan(about?.range.high ?? 0);
});

it('what is asked for is in the plan until it is done; asked twice it says so', async () => {
  await changed('UK-1', 15, 10);
  const ask = () => requestJob(db, acting(), { tag: 'UK-1', kind: 'service', dueOn: '2026-03-20', why: 'dry board' });
  await ask();
  await expect(ask()).rejects.toMatchObject({ type: 'asked-already' });
  expect((await jobOf('UK-1', 'service')).about).toMatchObject({
    what: 'yearly service',
    dueOn: '2026-03-20',
    because: 'dry board',
  });
  await changed('UK-1', 15, 0);
  expect((await jobOf('UK-1', 'service')).job).toBeUndefined();
  // The visits after that change are in the plan instead.
  expect((await jobOf('UK-1', 'retune')).about?.what).toMatch(/retune, day/);
});

it('what a helper learned is counted: watched as planned and done, done, and done again', async () => {
  const [helper] = await db('person')
    .insert({ name: 'Cy Zed', initials: 'CZ', role: 'helper', place_id: 1 })
    .returning('id');
  const cy = { id: helper?.id as number, role: 'helper' as const };
  await changed('AC-1', 30, 20, 1);
  const [plan] = await db('plan').insert({ person_id: 1, published_at: NOW, cost: 1 }).returning('id');
  const item = {
    plan_id: plan?.id as number,
    instrument_id: 1,
    kind: 'change',
    person_id: 1,
    place_id: 1,
    minutes: 30,
  };
  await db('plan_job').insert({ ...item, on_day: '2026-02-18', locked: false, learner_id: cy.id });
  await changed('AC-1', 30, 10, cy.id);
  const record = (await db('change_record').where({ person_id: cy.id }).first())?.id as number;
  const asked = { recordId: record };
  // Until somebody says that they stood by, it does not count; and only who may supervise it can say so, of themselves.
  const counted = async () => (await learnedOf(db, [cy], TODAY)).get(`${cy.id}/steel-acoustic`);
  expect(await counted()).toMatchObject({ done: 0, unseen: 1 });
  await setSignOff(db, acting(), { personId: 2, family: 'steel-acoustic', level: 3 });
  expect(await askedOf(db, { id: 2, role: 'technician', placeName: 'Workshop' }, TODAY)).toEqual([]);
  await expect(standBy(db, acting(2), asked, TODAY)).rejects.toThrow(/signed off to supervise/);
  await expect(standBy(db, acting(cy.id), asked, TODAY)).rejects.toMatchObject({ type: 'not-yours' });
  expect(await askedOf(db, { id: 1, role: 'coordinator', placeName: 'Workshop' }, TODAY)).toMatchObject([
    { recordId: record, by: 'Cy Zed' },
  ]);
  await standBy(db, acting(), asked, TODAY);
  await expect(standBy(db, acting(), asked, TODAY)).rejects.toMatchObject({ status: 409 });
  await changed('AC-1', 30, 7, 1);
  expect(await counted()).toEqual({ level: 2, watched: 1, done: 1, redone: 1, practised: 0, unseen: 0 });
  await setSignOff(db, acting(), { personId: cy.id, family: 'violin', level: 1 });
  expect((await loadSignOffs(db))(cy, 'violin')).toBe(1);
});

it('weights are kept for the programme, and a second change of the same version is refused', async () => {
  const weights = { wall: 3, unplannedDays: 20, missedRetune: 2, setUp: 4, travel: 1, fairness: 0, change: 1 };
  await saveWeights(db, acting(), { weights, expectedVersion: 0 });
  await expect(saveWeights(db, acting(), { weights, expectedVersion: 0 })).rejects.toMatchObject({ status: 409 });
  expect((await planInput(db, { today: TODAY, now: NOW })).problem.weights).toEqual(weights);
});
