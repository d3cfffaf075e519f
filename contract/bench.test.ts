import { expect, it } from 'vitest';
import { AnswerShape } from './bench';

const at = { step: 'stretch.rounds', cursor: 'finish' };

it.each([
  [{ outcome: 'done', note: '' }, { outcome: 'done' }],
  [
    { outcome: 'done', note: '2' },
    { outcome: 'done', choice: 2 },
  ],
  [
    { outcome: 'done', note: 'all the same: It holds' },
    { outcome: 'done', passed: 'It holds' },
  ],
  [
    { outcome: 'skipped', note: 'No time' },
    { outcome: 'skipped', because: 'No time' },
  ],
  [
    { outcome: 'trouble', note: 'snaps@3' },
    { outcome: 'trouble', mistake: 'snaps', number: 3 },
  ],
  [
    { outcome: 'trouble', note: 'needs-repair' },
    { outcome: 'trouble', mistake: 'needs-repair' },
  ],
  [
    { outcome: 'measured', note: 'drop 6 41.5' },
    { outcome: 'measured', drop: { number: 6, cents: 41.5 } },
  ],
  [
    { outcome: 'measured', note: 'noted: Screws = to the head = left' },
    { outcome: 'measured', noted: { asked: 'Screws', said: 'to the head = left' } },
  ],
])('an answer that a device kept as one text, %j, is taken for what it says', (old, now) => {
  expect(AnswerShape.parse({ ...at, ...old })).toEqual({ ...at, ...now });
  expect(AnswerShape.parse({ ...at, ...now })).toEqual({ ...at, ...now });
});

it.each([
  { outcome: 'trouble', mistake: 'the wind' },
  { outcome: 'skipped' },
  { outcome: 'measured' },
  { outcome: 'measured', drop: { number: 0, cents: 3 } },
  { outcome: 'done', passed: '' },
])('what nobody can say is refused: %j', (said) => {
  expect(AnswerShape.safeParse({ ...at, ...said }).success).toBe(false);
});
