import type { Knex } from 'knex';
import { afterEach, beforeEach, expect, it } from 'vitest';
import { outcomeOf } from '../../tests/support/outcome';
import { acting, smallProgramme } from '../../tests/support/small';
import { addPlace } from '../programme/manage';
import { busyAhead } from './busy';
import { calendarFiles, importCalendar, removeCalendar } from './calendar';
import { addClass, loadClasses, removeClass } from './classes';
import { addHoliday } from './holidays';

let db: Knex;
beforeEach(async () => {
  ({ db } = await smallProgramme());
});
afterEach(() => db.destroy());
const ID = async (tag: string) => (await db('instrument').where({ tag }).first())?.id as number;

// 10 March 2026 is a Tuesday.
const CLASS = {
  name: 'Year 4 ukuleles',
  placeId: 1,
  weekday: 3,
  fromTime: '10:00',
  toTime: '11:30',
  from: '2026-03-10',
  to: '2026-06-30',
  who: 'uk-1, UK-2',
};

it('a class keeps its instruments on its weekday, not on holidays there, until it is over or removed', async () => {
  const id = await ID('UK-1');
  const ahead = async () =>
    ((await busyAhead(db, [id], { from: '2026-03-10', until: '2026-04-07' })).get(id) ?? []).map((b) => b.from);
  const key = acting();
  const { classId } = await addClass(db, key, CLASS);
  expect(await addClass(db, key, CLASS)).toEqual({ classId, instruments: 2 });
  const { placeId } = await addPlace(db, acting(), { name: 'North School', isStore: false });
  expect(await ahead()).toEqual(['2026-03-11', '2026-03-18', '2026-03-25', '2026-04-01']);
  await addHoliday(db, acting(), { from: '2026-03-16', to: '2026-03-20', name: 'Spring week', placeId: 1 });
  await addHoliday(db, acting(), { from: '2026-03-23', to: '2026-03-27', name: 'Elsewhere', placeId });
  expect(await ahead()).toEqual(['2026-03-11', '2026-03-25', '2026-04-01']);
  expect(await loadClasses(db, '2026-07-01')).toEqual([]);
  expect((await loadClasses(db, '2026-03-10'))[0]).toMatchObject({ name: 'Year 4 ukuleles', instruments: 2 });
  await removeClass(db, acting(), { id: classId });
  expect(await ahead()).toEqual([]);
});

it('what cannot be a class is said in words', async () => {
  expect(await outcomeOf(addClass(db, acting(), { ...CLASS, who: 'UK-1, UK-77' }))).toBe('who');
  expect(await outcomeOf(addClass(db, acting(), { ...CLASS, who: ' , ' }))).toBe('who');
  expect(await outcomeOf(addClass(db, acting(), { ...CLASS, toTime: '09:00' }))).toBe('hours');
  expect(await outcomeOf(addClass(db, acting(), { ...CLASS, to: '2026-03-01' }))).toBe('days');
  expect(await db('class')).toEqual([]);
});

it('a calendar is taken over whole, years of it from long ago, and removed by its file', async () => {
  await db('instrument').where({ tag: 'UK-2' }).update({ tag: 'Flügel 3/B', tag_key: 'FLÜGEL 3/B' });
  const event = (uid: string, says: string) => [
    'BEGIN:VEVENT',
    `UID:${uid}`,
    'DTSTART;TZID=Europe/Dublin:20190305T230000',
    'DTEND;TZID=Europe/Dublin:20190306T000000',
    'RRULE:FREQ=WEEKLY',
    `SUMMARY:${says}`,
    'END:VEVENT',
  ];
  const text = [
    'BEGIN:VCALENDAR',
    'VERSION:2.0',
    ...event('a', 'UK-1 late lesson'),
    ...event('b', 'Room of Flügel 3/B'),
    'END:VCALENDAR',
  ].join('\r\n');
  const part = { text, about: 'lessons' as const, today: '2026-03-10', timeZone: 'Europe/Dublin' };
  const done = await importCalendar(db, acting(), { ...part, source: 'school.ics' });
  // Every Tuesday of three years, the last day with them.
  expect(done).toEqual({ entries: 2 * 157, instruments: 2 });
  const rows = await db('instrument_busy').orderBy('from_on');
  expect(rows.every((r) => r.from_on === r.to_on && r.to_time === '24:00')).toBe(true);
  expect(await calendarFiles(db, '2026-03-10')).toEqual([{ source: 'school.ics', entries: 314 }]);
  const gone = { source: 'school.ics', today: '2026-03-24', timeZone: 'Europe/Dublin' };
  expect(await removeCalendar(db, acting(), gone)).toEqual({ removed: 310 });
  // What has passed stays.
  expect(await db('instrument_busy')).toHaveLength(4);
  expect(await outcomeOf(removeCalendar(db, acting(), gone))).toBe('not-found');
});
