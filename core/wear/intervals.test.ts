import fc from 'fast-check';
import { expect, it } from 'vitest';
import { addDays } from '../dates';
import { HOUSE_CARE } from './care';
import { type CareRule, dueOf } from './due';
import { type IntervalsSet, intervalInForce, intervalProblems, sayCareRule } from './intervals';

const rules = fc.record<CareRule>({
  school: fc.constantFrom('calendar', 'use', 'condition', 'whichever-first'),
  calendarDays: fc.integer({ min: -5, max: 4000 }),
  playHours: fc.oneof(fc.integer({ min: -3, max: 11_000 }), fc.constant(Number.NaN)),
  neverOverDays: fc.integer({ min: -5, max: 4000 }),
});

it('the narrowest interval that is set holds, and says where it comes from', () => {
  const [family, product, instrument] = [HOUSE_CARE.violin, HOUSE_CARE.cello, HOUSE_CARE.banjo];
  const all: IntervalsSet = { family, product, instrument };
  expect(intervalInForce(all)).toEqual({ rule: instrument, from: 'instrument' });
  expect(intervalInForce({ family, product })).toEqual({ rule: product, from: 'product' });
  expect(intervalInForce({ family })).toEqual({ rule: family, from: 'family' });
});

it('an interval that may be kept is reached by the day it must be, from whatever day strings went on', () => {
  fc.assert(
    fc.property(rules, fc.double({ min: 0, max: 40, noNaN: true }), fc.nat(3000), (rule, hoursPerWeek, after) => {
      const wrong = intervalProblems(rule);
      for (const line of wrong) expect(line).toMatch(/^[“A-Z].*\.$/);
      if (wrong.length > 0) return;
      const fittedOn = addDays('2020-01-01', after);
      const due = dueOf({
        rule,
        use: [{ fromDay: '2019-01-01', toDay: null, hoursPerWeek }],
        reports: [],
        concerts: [],
        settlingDays: 1,
        knownSince: '2019-01-01',
        strings: [{ number: 1, fittedOn, state: 'on' }],
      });
      expect(due.on >= fittedOn).toBe(true);
      expect(due.on <= addDays(fittedOn, rule.neverOverDays)).toBe(true);
    }),
  );
});

it('says an interval as one would say it', () => {
  const rule = HOUSE_CARE.violin;
  expect(sayCareRule(rule)).toBe('after 10 months or 150 hours of playing, never longer than one year');
  expect(sayCareRule({ ...rule, school: 'use' })).toBe('after 150 hours of playing, never longer than one year');
  expect(sayCareRule({ ...rule, school: 'calendar', calendarDays: 28 })).toBe(
    'after 4 weeks, never longer than one year',
  );
  expect(sayCareRule({ ...rule, school: 'condition', neverOverDays: 730 })).toBe(
    'inspection after 10 months, never longer than 2 years',
  );
});
