import { TZDate } from '@date-fns/tz';
import { UTCDate } from '@date-fns/utc';
import * as reference from 'date-fns';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import {
  addDays,
  daysBetween,
  earlier,
  isLocalDate,
  later,
  sayDay,
  sayDayLong,
  sayDayOfWeek,
  sayWeekday,
  withinRange,
} from './dates';
import { sayInstant } from './instants';
import { DAY_STYLES, USUAL_MANNER, writeIn } from './manner';

const day = fc
  .date({ min: new Date('1990-01-01'), max: new Date('2099-12-31'), noInvalidDate: true })
  .map((d) => d.toISOString().slice(0, 10));

describe('day arithmetic', () => {
  it('agrees with date-fns over years, leap days and clock changes', () => {
    fc.assert(
      fc.property(day, fc.integer({ min: -5000, max: 5000 }), (from, n) => {
        const expected = reference.formatISO(reference.addDays(new UTCDate(`${from}T00:00:00Z`), n), {
          representation: 'date',
        });
        expect(addDays(from, n)).toBe(expected);
        expect(daysBetween(from, expected)).toBe(n);
      }),
    );
  });

  it('orders days', () => {
    fc.assert(
      fc.property(day, day, (a, b) => {
        expect(daysBetween(earlier(a, b), later(a, b))).toBeGreaterThanOrEqual(0);
      }),
    );
  });
});

it('knows a day from what only looks like one', () => {
  for (const good of ['2026-02-28', '2028-02-29']) expect(isLocalDate(good)).toBe(true);
  for (const bad of [
    '9999-12-31',
    '1899-12-31',
    '0000-01-01',
    '2026-02-29',
    '2026-13-01',
    '26-01-01',
    '2026-1-1',
    '',
    'tomorrow',
  ])
    expect(isLocalDate(bad)).toBe(false);
});

it('stays within the days a programme can speak of', () => {
  expect(addDays('2199-12-30', 1)).toBe('2199-12-31');
  for (const [day, n] of [
    ['2199-12-31', 1],
    ['1900-01-01', -1],
    ['2026-01-01', 1e9],
    ['nonsense', 1],
  ] as const)
    expect(() => addDays(day, n)).toThrow(RangeError);
  expect(['+010000-01-01', '-000001-01-01', '9999-12-31', '2026-03-01'].map(withinRange)).toEqual([
    '2199-12-31',
    '1900-01-01',
    '2199-12-31',
    '2026-03-01',
  ]);
});

it('says days as people do, with the year only when it could be mistaken', () => {
  expect(sayDay('2026-12-18', '2026-11-24')).toBe('18 Dec');
  expect(sayDay('2027-12-18', '2026-11-24')).toBe('18 Dec 2027');
  expect(sayDayLong('2026-12-18', '2026-11-24')).toBe('18 December');
  expect(sayWeekday('2026-12-18')).toBe('Fri 18 Dec');
  expect(sayDayOfWeek('2026-11-24')).toBe('Tuesday');
});

it('writes days and times as date-fns does, in every manner and zone', () => {
  const patterns = {
    'day-first': ['d MMM', 'd MMMM', 'EEE d MMM'],
    'month-first': ['MMM d', 'MMMM d', 'EEE MMM d'],
    iso: ['yyyy-MM-dd', 'yyyy-MM-dd', 'EEE yyyy-MM-dd'],
  } as const;
  const zones = ['UTC', 'Europe/Berlin', 'America/St_Johns', 'Pacific/Kiritimati'];
  const instant = fc.integer({ min: Date.parse('1990-01-01'), max: Date.parse('2099-12-30') });
  fc.assert(
    fc.property(day, fc.constantFrom(...DAY_STYLES), instant, fc.constantFrom(...zones), (d, days, at, zone) => {
      writeIn({ ...USUAL_MANNER, days });
      const read = new UTCDate(`${d}T00:00:00Z`);
      const [short, long, weekday] = patterns[days].map((p) => reference.format(read, p));
      expect([sayDay(d, d), sayDayLong(d, d), sayWeekday(d)]).toEqual([short, long, weekday]);
      expect(sayDayOfWeek(d)).toBe(reference.format(read, 'EEEE'));
      const wall = new TZDate(at, zone);
      expect(sayInstant(at, at, zone)).toBe(reference.format(wall, 'EEE HH:mm'));
      expect(sayInstant(at, 0, zone)).toBe(reference.format(wall, `${patterns[days][2]} HH:mm`));
    }),
  );
  writeIn(USUAL_MANNER);
});
