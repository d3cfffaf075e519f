import { expect, it } from 'vitest';
import { columnName, sayDetails } from './words';

it('what was sent is said in words, without keys, codes or secrets', () => {
  expect(
    sayDetails({
      token: 'm4q3pR4jNdlVgVwFMZO7yw',
      tag: 'VN-1',
      houseSetId: 3,
      numbers: [4, 3],
      lines: [{ productId: 1 }, { productId: 2 }],
      isStore: true,
      text: '',
    }),
  ).toEqual(['tag: VN-1', 'usual set: 3', 'numbers: 4, 3', 'lines: 2 entries', 'is store: yes']);
  expect(sayDetails('nothing')).toEqual([]);
  expect(columnName('hours_per_week')).toBe('hours a week');
});
