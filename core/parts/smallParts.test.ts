import { expect, it } from 'vitest';
import { saySmallParts, smallPartsOf } from './smallParts';

it('says what was put in and saved, in numbers that agree, and nothing where nothing was', () => {
  expect(saySmallParts([{ part: 'bridge-pin', used: 1, saved: 0 }])).toBe('1 bridge pin newly fitted');
  expect(
    saySmallParts([
      { part: 'bridge-pin', used: 2, saved: 0 },
      { part: 'ball-end-spacer', used: 0, saved: 1 },
    ]),
  ).toBe('2 bridge pins newly fitted, 1 ball-end spacer saved');
  expect(saySmallParts([{ part: 'bridge-pin', used: 0, saved: 0 }])).toBe('');
  expect(smallPartsOf({ extras: [] })).toEqual([]);
});
