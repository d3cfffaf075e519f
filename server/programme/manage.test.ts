import type { Knex } from 'knex';
import { afterEach, beforeEach, expect, it } from 'vitest';
import { acting, NOW, shelf, smallProgramme } from '../../tests/support/small';
import { openJob } from '../bench/jobs';
import { recordPast, unknownAges } from '../bench/past';
import { undoFinish } from '../bench/undo';
import { must } from '../db/must';
import { UserError } from '../errors';
import { editDetails } from '../fleet/details';
import { instrumentPage } from '../fleet/page';
import { addAvailability } from '../plan/availability';
import { planInput } from '../plan/problem';
import {
  addPerson,
  addPlace,
  editPerson,
  editPlace,
  editProgramme,
  managed,
  retirePerson,
  retirePlace,
} from './manage';
import { loadPeople, loadPlaces, loadProgramme } from './programme';
import { wayIn } from './wayIn';

let db: Knex;
const TODAY = '2026-03-10';
beforeEach(async () => {
  ({ db } = await smallProgramme());
});
afterEach(() => db.destroy());
const typeOf = (promise: Promise<unknown>) =>
  promise.then(
    () => expect.fail('it went through'),
    (error: unknown) => (error instanceof UserError ? error.type : Promise.reject(error)),
  );
const helper = { name: 'Cleo Zet', initials: '', role: 'helper' as const, placeId: 1 };

it('people come, change and leave; what they did stays theirs, and the plan goes on without them', async () => {
  const once = acting();
  const { personId } = await addPerson(db, once, helper);
  expect(await addPerson(db, once, helper)).toEqual({ personId });
  expect(await typeOf(addPerson(db, acting(), { ...helper, name: 'cleo zet' }))).toBe('name-taken');
  expect(must(await db('person').where({ id: personId }).first()).initials).toBe('CZ');
  await editPerson(db, acting(), { ...helper, role: 'coordinator', id: personId, expectedVersion: 1 });
  expect(await typeOf(editPerson(db, acting(), { ...helper, id: personId, expectedVersion: 1 }))).toBe('conflict');
  expect(await typeOf(editPerson(db, acting(2), { ...helper, id: personId, expectedVersion: 2 }))).toBe('not-yours');
  // The only coordinator stays one, and cannot leave.
  await db('person').where({ id: 1 }).update({ role: 'technician' });
  const by = { ...acting(), personId };
  expect(await typeOf(editPerson(db, by, { ...helper, id: personId, expectedVersion: 2 }))).toBe('last-coordinator');
  await db('person').where({ id: 1 }).update({ role: 'coordinator' });

  await addAvailability(db, acting(), { personId: 2, placeId: 1, weekday: 3, minutes: 60, starts: '09:00' });
  const { jobId } = await openJob(db, acting(2), { tag: 'UK-1' });
  expect(await typeOf(retirePerson(db, acting(), { id: 2, expectedVersion: 1 }))).toBe('jobs-open');
  await db('job').where({ id: jobId }).update({ status: 'cancelled' });
  expect(await typeOf(retirePerson(db, acting(), { id: 1, expectedVersion: 1 }))).toBe('yourself');
  expect(await retirePerson(db, acting(), { id: 2, expectedVersion: 1 })).toEqual({ left: true });
  expect((await loadPeople(db)).map((p) => p.id)).not.toContain(2);
  const { problem } = await planInput(db, { today: TODAY, now: NOW });
  expect(problem.shifts).toEqual([]);
  await retirePerson(db, acting(), { id: 2, expectedVersion: 2 });
  expect((await loadPeople(db)).map((p) => p.id)).toContain(2);
});

it('a place is renamed everywhere at once, and given up only when nothing would be nowhere', async () => {
  const { placeId } = await addPlace(db, acting(), { name: 'North School', isStore: false });
  await editPlace(db, acting(), { id: 1, name: 'Old Workshop', isStore: true, expectedVersion: 1 });
  expect(await db('instrument_state').distinct('place_name').pluck('place_name')).toEqual(['Old Workshop']);
  expect(await typeOf(editPlace(db, acting(), { id: 1, name: 'X', isStore: false, expectedVersion: 2 }))).toBe(
    'last-store',
  );
  const giveUp = retirePlace(db, acting(), { id: 1, expectedVersion: 2 });
  await expect(giveUp).rejects.toThrow(/4 instruments, 3 pieces on the shelf, 2 people working there/);
  expect(await retirePlace(db, acting(), { id: placeId, expectedVersion: 1 })).toEqual({ givenUp: true });
  expect((await loadPlaces(db)).map((p) => p.name)).toEqual(['Old Workshop']);
  expect((await managed(db)).places.map((p) => p.givenUpOn)).toEqual([null, TODAY]);
});

it('settings hold at once; another zone gives days anew', async () => {
  const settings = { name: 'Smaller', timeZone: 'Pacific/Kiritimati', a4Hz: 442, expectedVersion: 1 };
  await editProgramme(db, acting(), settings);
  expect(await loadProgramme(db)).toMatchObject({ name: 'Smaller', timeZone: 'Pacific/Kiritimati', a4Hz: 442 });
  expect(await typeOf(editProgramme(db, acting(), settings))).toBe('conflict');
  // How it writes is kept, and what a request does not say stays.
  const manner = { currency: 'EUR', dayStyle: 'iso' as const, weekStarts: 7 as const, lengths: 'in' as const };
  await editProgramme(db, acting(), { ...settings, ...manner, dayFrom: '07:30', expectedVersion: 2 });
  await editProgramme(db, acting(), { ...settings, expectedVersion: 3 });
  expect(await loadProgramme(db)).toMatchObject({
    manner: { currency: 'EUR', days: 'iso', weekStarts: 7, lengths: 'in' },
    day: { from: '07:30', to: '17:00' },
  });
});

it('past changes are said of several at once: ages are known, nothing is taken, and one that was wrong is taken back', async () => {
  const before = await shelf(db);
  const past = { tags: ['uk-1', 'UK-2'], on: '2026-01-05', about: true, personId: 2, note: 'from the old list' };
  expect((await unknownAges(db, 10)).all).toBe(4);
  expect(await recordPast(db, acting(), past)).toEqual({ recorded: 2 });
  expect((await unknownAges(db, 10)).list.map((u) => u.tag)).toEqual(['AC-1', 'VN-1']);
  expect(await shelf(db)).toEqual(before);
  const programme = { name: 'Small', timeZone: 'UTC', a4Hz: 440, isDemo: false };
  const page = await instrumentPage(db, 'UK-1', { today: TODAY, now: NOW, programme });
  expect(page.due.since).toBe('2026-01-05');
  expect(page.history[0]).toMatchObject({ by: 'Ben Wy' });
  expect(page.visits).toEqual([]);

  expect(await typeOf(recordPast(db, acting(), { ...past, on: '2025-12-01' }))).toBe('later-change');
  expect(await typeOf(recordPast(db, acting(), { ...past, on: '2026-03-11' }))).toBe('not-past');
  await expect(recordPast(db, acting(), { ...past, tags: ['AC-1', 'NO-7'] })).rejects.toThrow(/NO-7/);
  expect((await unknownAges(db, 10)).all).toBe(2);
  const record = must(await db('change_record').where({ kind: 'change' }).orderBy('id').first());
  await undoFinish(db, acting(), { recordId: record.id, reason: 'another instrument' });
  expect((await unknownAges(db, 10)).all).toBe(3);
});

it('an instrument is moved and gets another tag; its history goes with it, and a stale form is told', async () => {
  const { placeId } = await addPlace(db, acting(), { name: 'North School', isStore: false });
  await recordPast(db, acting(), { tags: ['AC-1'], on: '2026-01-05', about: false, personId: null, note: '' });
  const { version } = must(await db('instrument').where({ tag: 'AC-1' }).first());
  const details = { expectedVersion: version, newTag: 'GT-9', placeId, holder: 'Year 8', note: 'dent at the back' };
  await editDetails(db, acting(), { tag: 'ac-1', ...details });
  expect(must(await db('instrument_state').where({ tag: 'GT-9' }).first())).toMatchObject({
    place_name: 'North School',
    holder: 'Year 8',
    changed_on: '2026-01-05',
  });
  expect(await typeOf(editDetails(db, acting(2), { tag: 'GT-9', ...details }))).toBe('conflict');
  expect(
    await typeOf(editDetails(db, acting(), { tag: 'GT-9', ...details, expectedVersion: version + 1, newTag: 'uk-1' })),
  ).toBe('tag-taken');
});

it('the way in says what is missing, one after the other, until a week is planned', async () => {
  const names = async () => (await wayIn(db)).filter((s) => !s.done).map((s) => s.name);
  expect(await names()).toEqual(['Working hours', 'Age of the strings', 'The first plan']);
  await addAvailability(db, acting(), { personId: 2, placeId: 1, weekday: 3, minutes: 60, starts: '09:00' });
  await recordPast(db, acting(), {
    tags: ['AC-1', 'UK-1'],
    on: '2026-01-05',
    about: true,
    personId: null,
    note: '',
  });
  expect(await names()).toEqual(['The first plan']);
});
