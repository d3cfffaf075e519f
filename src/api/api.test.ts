import { expect, it } from 'vitest';
import { FinishShape } from '../../contract/bench';
import { fleetQueryOf } from '../../contract/fleet';
import { conflict, notFound } from '../../server/errors';
import { problemOf } from './problem';

it('answers errors as problem details in words that say what to do', async () => {
  const answer = problemOf(conflict('Ann was first.', { current: { by: 'Ann' } }));
  expect(answer.status).toBe(409);
  expect(answer.headers.get('content-type')).toBe('application/problem+json');
  expect(await answer.json()).toMatchObject({
    type: 'arvick:conflict',
    status: 409,
    detail: 'Ann was first.',
    current: { by: 'Ann' },
  });
  expect(problemOf(notFound('SK-1')).status).toBe(404);
  expect(problemOf(Object.assign(new Error('x'), { code: 'SQLITE_FULL' })).status).toBe(507);
});

it('reads a Fleet query from an address, and nonsense as if it were not there', () => {
  const query = (text: string) => fleetQueryOf(new URLSearchParams(text));
  expect(query('')).toEqual({
    q: '',
    place: null,
    family: null,
    due: 'all',
    sort: 'due',
    descending: false,
    offset: 0,
    limit: 40,
  });
  expect(query('q=loan&place=3&family=cello&due=broken&sort=tag&descending=true&offset=60')).toMatchObject({
    q: 'loan',
    place: 3,
    family: 'cello',
    due: 'broken',
    sort: 'tag',
    descending: true,
    offset: 60,
  });
  expect(query('place=here&family=kazoo&due=soon&sort=colour&descending=perhaps&offset=-4&limit=99999')).toEqual(
    query(''),
  );
});

it('takes no finish that says less than it must', () => {
  const good = {
    expectedVersion: 1,
    entries: [{ number: 1, action: 'fit', productId: 4, broken: 0, found: false }],
    discard: [],
    notes: '',
    minutes: null,
  };
  expect(FinishShape.safeParse(good).success).toBe(true);
  for (const bad of [
    { entries: [] },
    { minutes: -1 },
    { expectedVersion: 'one' },
    { notes: 'x'.repeat(5000) },
    { entries: [{ ...good.entries[0], broken: 9 }] },
  ]) {
    expect(FinishShape.safeParse({ ...good, ...bad }).success, JSON.stringify(bad).slice(0, 60)).toBe(false);
  }
});
