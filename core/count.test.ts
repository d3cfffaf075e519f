import fc from 'fast-check';
import { expect, it } from 'vitest';
import { count, halves, plural, sayList, sayTurns, sayWinds, times } from './count';

it('numbers agree with their words, and lists read as said aloud', () => {
  expect([0, 1, 2, 21].map((n) => count(n, 'string'))).toEqual(['0 strings', '1 string', '2 strings', '21 strings']);
  expect(count(1, 'person', 'people')).toBe('1 person');
  expect(count(20_000, 'instrument')).toBe('20,000 instruments');
  expect(plural(1, 'is', 'are')).toBe('is');
  expect([1, 2, 3].map(times)).toEqual(['once', 'twice', '3 times']);
  expect([[], ['a'], ['a', 'b'], ['a', 'b', 'c']].map(sayList)).toEqual(['', 'a', 'a and b', 'a, b and c']);
});

it('turns of a button are said as a hand makes them', () => {
  expect([0.02, 0.26, 0.5, 0.8, 1, 1.6].map(sayTurns)).toEqual([
    'a quarter turn',
    'a quarter turn',
    'half a turn',
    'three quarters of a turn',
    '1 turn',
    '1½ turns',
  ]);
});

it('winds are counted in halves, and none is made up', () => {
  expect([0.1, 0.6, 1.1, 1.4, 2.74, 3.76].map(sayWinds)).toEqual([
    'less than one wind',
    'less than one wind',
    '1 wind',
    '1½ winds',
    '2½ winds',
    '4 winds',
  ]);
  fc.assert(
    fc.property(fc.double({ min: 0, max: 40, noNaN: true }), (n) => {
      const said = halves(n);
      const value = Number(said.replace('½', '') || 0) + (said.endsWith('½') ? 0.5 : 0);
      expect(Math.abs(value - n)).toBeLessThanOrEqual(0.25);
    }),
  );
});
