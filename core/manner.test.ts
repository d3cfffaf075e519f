import fc from 'fast-check';
import { afterEach, expect, it } from 'vitest';
import { sayDay, sayWeekday, weekdayOf, weekOf } from './dates';
import {
  DAY_STYLES,
  daysIntoWeek,
  GAUGES,
  LENGTHS,
  mannerOf,
  mannerText,
  sayGauge,
  sayMoney,
  USUAL_MANNER,
  weekOrder,
  writeIn,
} from './manner';
import { sayQuantity } from './procedures/quantities';

afterEach(() => writeIn(USUAL_MANNER));

const plain = { label: '', why: '' };

const manners = fc.record({
  currency: fc.constantFrom('', 'EUR', 'USD', 'JPY'),
  days: fc.constantFrom(...DAY_STYLES),
  weekStarts: fc.constantFrom(1, 6, 7),
  lengths: fc.constantFrom(...LENGTHS),
  gauges: fc.constantFrom(...GAUGES),
});

it('goes through the root of a page and back; what cannot be read in it is as usual', () => {
  fc.assert(
    fc.property(manners, (m) => {
      expect(mannerOf(mannerText(m))).toEqual(m);
    }),
  );
  fc.assert(
    fc.property(fc.string(), (text) => {
      expect(mannerText(mannerOf(text)).split('/')).toHaveLength(5);
    }),
  );
  expect(mannerOf('ZZZ/sideways/9/ell/wire')).toEqual(USUAL_MANNER);
});

it('days, money and lengths are written as the programme does', () => {
  expect([sayDay('2026-12-18', '2026-11-24'), sayWeekday('2026-12-18'), sayMoney(1250)]).toEqual([
    '18 Dec',
    'Fri 18 Dec',
    '12.50',
  ]);
  writeIn({ currency: 'EUR', days: 'month-first', weekStarts: 7, lengths: 'in', gauges: 'mm' });
  expect([sayDay('2028-12-18', '2026-11-24'), sayWeekday('2026-12-18'), sayMoney(1250)]).toEqual([
    'Dec 18, 2028',
    'Fri Dec 18',
    '12.50 EUR',
  ]);
  // 25.4 mm to the inch, by definition (NIST SP 811).
  expect(sayQuantity({ ...plain, value: 38.1, unit: 'mm', digits: 0 })).toBe('38 mm (1 1/2 in)');
  expect(sayQuantity({ ...plain, value: 12.7, to: 19.05, unit: 'mm', digits: 0 })).toBe('13 to 19 mm (1/2 to 3/4 in)');
  expect(sayGauge(0.8128)).toBe('0.81 mm');
  writeIn(USUAL_MANNER);
  expect([sayGauge(0.8128), sayGauge(0.2286)]).toEqual(['.032', '.009']);
  expect(sayQuantity({ ...plain, value: 3, unit: 'winds', digits: 1 })).toBe('3 winds');
  expect(sayQuantity({ ...plain, value: 2.1, to: 2.6, unit: 'winds', digits: 1 })).toBe('2 to 2½ winds');
  expect(sayQuantity({ ...plain, value: 0.1, unit: 'winds', digits: 1 })).toBe('less than one wind');
});

it('a week has seven days from its first, whatever that is', () => {
  fc.assert(
    fc.property(manners, fc.integer({ min: 0, max: 40_000 }), (m, n) => {
      writeIn(m);
      const day = new Date(n * 86_400_000).toISOString().slice(0, 10);
      const first = weekOf(day);
      expect(weekdayOf(first)).toBe(m.weekStarts);
      expect(first <= day).toBe(true);
      expect(daysIntoWeek(weekdayOf(day))).toBe(weekOrder().indexOf(weekdayOf(day)));
    }),
  );
});
