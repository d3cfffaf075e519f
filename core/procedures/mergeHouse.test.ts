import { expect, it } from 'vitest';
import { type House, newHouse } from './houseMethod';
import { mergeHouse } from './mergeHouse';

const step = (id: string, title: string) => ({ ...({} as House['steps'][number]), id, title });
const base: House = {
  ...newHouse('steel-acoustic'),
  wording: { a: { title: 'A' }, b: { title: 'B' } },
  steps: [step('1', 'one'), step('2', 'two'), step('3', 'three')],
};

it('puts what I changed on top of what somebody else saved, and leaves theirs where I changed nothing', () => {
  const mine: House = {
    method: { ...base.method, stretchRounds: 5 },
    wording: { a: { title: 'Mine' }, b: { title: 'B' } },
    steps: [step('1', 'mine'), step('2', 'two'), step('new', 'added by me')],
  };
  const theirs: House = {
    method: { ...base.method, stretchRounds: 2, finish: 'by-string' },
    wording: { a: { title: 'A' }, c: { title: 'Theirs' } },
    steps: [step('1', 'one'), step('2', 'theirs'), step('3', 'three'), step('4', 'added by them')],
  };
  const merged = mergeHouse(base, mine, theirs);
  expect(merged.method).toEqual({ ...base.method, stretchRounds: 5, finish: 'by-string' });
  expect(merged.wording).toEqual({ a: { title: 'Mine' }, c: { title: 'Theirs' } });
  expect(merged.steps.map((s) => s.title)).toEqual(['mine', 'theirs', 'added by them', 'added by me']);
  expect(mergeHouse(base, base, theirs)).toEqual(theirs);
  expect(mergeHouse(base, mine, base).steps).toEqual(mine.steps);
});
