import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { addDays } from '../dates';
import { type CareRule, dueOf, lifeLeft, playHours, playHoursReachedOn, type StringOn, type UsePeriod } from './due';
import { longReason, shortReason } from './words';

const rule: CareRule = { school: 'whichever-first', calendarDays: 180, playHours: 60, neverOverDays: 365 };
const on = (fittedOn: string): StringOn[] => [1, 2].map((number) => ({ number, fittedOn, state: 'on' }));
const steady = (hoursPerWeek: number): UsePeriod[] => [{ fromDay: '2025-01-01', toDay: null, hoursPerWeek }];
const base = { rule, use: steady(2), reports: [], concerts: [], settlingDays: 1, knownSince: '2026-01-01' };

describe('play hours', () => {
  it('run over periods with different use', () => {
    const use: UsePeriod[] = [
      { fromDay: '2026-01-01', toDay: '2026-01-15', hoursPerWeek: 7 },
      { fromDay: '2026-01-15', toDay: null, hoursPerWeek: 3.5 },
    ];
    expect(playHours(use, '2026-01-08', '2026-01-29')).toBeCloseTo(7 + 7, 9);
    expect(playHoursReachedOn(use, '2026-01-08', 14)).toBe('2026-01-29');
  });

  it('are reached on the first day on which they are used up, and never without use', () => {
    const days = fc.integer({ min: 0, max: 300 });
    const periods = fc.array(
      fc.record({ days: fc.integer({ min: 1, max: 120 }), hours: fc.double({ min: 0, max: 20, noNaN: true }) }),
      { minLength: 1, maxLength: 5 },
    );
    fc.assert(
      fc.property(periods, days, fc.double({ min: 1, max: 200, noNaN: true }), (list, startIn, hours) => {
        let day = '2025-06-01';
        const use = list.map((p, i): UsePeriod => {
          const fromDay = day;
          day = addDays(day, p.days);
          return { fromDay, toDay: i === list.length - 1 ? null : day, hoursPerWeek: p.hours };
        });
        const from = addDays('2025-06-01', startIn);
        const reached = playHoursReachedOn(use, from, hours);
        if (reached === null) expect(use.at(-1)?.hoursPerWeek).toBeLessThan(0.05);
        else {
          expect(playHours(use, from, reached)).toBeGreaterThanOrEqual(hours - 1e-6);
          expect(playHours(use, from, addDays(reached, -1))).toBeLessThan(hours + 1e-6);
        }
      }),
    );
  });
});

describe('due', () => {
  it('takes whichever school comes first and keeps what the others say', () => {
    const due = dueOf({ ...base, strings: on('2026-01-01'), use: steady(7) });
    expect(due).toMatchObject({ by: 'use', on: '2026-03-02', calendarOn: '2026-06-30', limitOn: '2027-01-01' });
    expect(dueOf({ ...base, strings: on('2026-01-01') })).toMatchObject({ by: 'calendar', on: '2026-06-30' });
    expect(dueOf({ ...base, strings: on('2026-01-01'), rule: { ...rule, school: 'use' }, use: [] }).by).toBe('limit');
  });

  it('never goes past the limit, whatever the rule and the use', () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 1, max: 2000 }),
        fc.double({ min: 0, max: 50, noNaN: true }),
        fc.constantFrom('calendar', 'use', 'whichever-first'),
        (calendarDays, hours, school) => {
          const due = dueOf({
            ...base,
            strings: on('2026-01-01'),
            use: steady(hours),
            rule: { ...rule, school, calendarDays },
          });
          expect(due.on <= addDays('2026-01-01', 365)).toBe(true);
        },
      ),
    );
  });

  it('counts from the oldest string when one was changed alone', () => {
    const strings: StringOn[] = [
      { number: 2, fittedOn: '2026-01-01', state: 'on' },
      { number: 1, fittedOn: '2026-05-01', state: 'on' },
    ];
    expect(dueOf({ ...base, strings })).toMatchObject({ on: '2026-06-30', numbers: [2] });
  });

  it('is at once when a string broke, something was reported, or the age is unknown', () => {
    const broken = { on: '2026-02-02', kind: 'broken' as const, numbers: [1] };
    expect(dueOf({ ...base, strings: on('2026-01-01'), reports: [broken] })).toMatchObject({
      by: 'broken',
      on: '2026-02-02',
    });
    const dull = { on: '2026-02-03', kind: 'dull' as const, numbers: [] };
    expect(dueOf({ ...base, strings: on('2026-01-01'), reports: [dull] })).toMatchObject({
      by: 'report',
      on: '2026-02-03',
    });
    expect(dueOf({ ...base, strings: [{ number: 1, fittedOn: null, state: 'on' }] })).toMatchObject({
      by: 'unknown-age',
      on: '2026-01-01',
    });
    expect(dueOf({ ...base, strings: [{ number: 1, fittedOn: null, state: 'missing' }] }).by).toBe('broken');
  });

  it('comes forward before a concert by the settling time, but not for strings that will still be fresh', () => {
    const concerts = [{ name: 'Evening', on: '2026-06-20' }];
    const near = dueOf({ ...base, strings: on('2026-01-01'), concerts, settlingDays: 3 });
    expect(near).toMatchObject({ by: 'concert', on: '2026-06-17', concert: { wouldBeOn: '2026-06-30' } });
    expect(dueOf({ ...base, strings: on('2026-03-01'), concerts, settlingDays: 3 }).by).toBe('calendar');
    expect(dueOf({ ...base, strings: on('2025-12-01'), concerts, settlingDays: 3 }).by).toBe('calendar');
  });

  it('says why in words', () => {
    const due = dueOf({ ...base, strings: on('2026-01-01'), use: steady(7) });
    const facts = { today: '2026-02-28', rule, hoursUsed: 58, nameOf: (n: number) => `string ${n}` };
    expect(shortReason(due, facts)).toBe('58 h played, limit 60');
    expect(longReason(due, facts)).toBe('58 of 60 hours played; by the calendar it would be due 30 Jun.');
  });
});

it('life runs from one to nothing', () => {
  expect(lifeLeft('2026-01-01', '2026-01-11', '2026-01-01')).toBe(1);
  expect(lifeLeft('2026-01-01', '2026-01-11', '2026-01-06')).toBe(0.5);
  expect(lifeLeft('2026-01-01', '2026-01-11', '2026-02-01')).toBe(0);
});
