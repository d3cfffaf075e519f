import { expect, it } from 'vitest';
import { phaseTimes } from './times';

const steps = [
  { key: 'a', phase: 'slacken' as const, minutes: 1 },
  { key: 'b', phase: 'slacken' as const, minutes: 1 },
  { key: 'c', phase: 'clean' as const, minutes: 5 },
];
const at = (minutes: number) => minutes * 60_000;

it('gives each gap to the answer that ends it, over two instruments in turn', () => {
  const cards = new Map([
    [1, steps],
    [2, steps],
  ]);
  const answers = [
    { jobId: 1, step: 'a', at: at(1) },
    { jobId: 2, step: 'a', at: at(3) },
    { jobId: 1, step: 'b', at: at(4) },
    { jobId: 1, step: 'c', at: at(9) },
  ];
  const { times, pausedMinutes } = phaseTimes(cards, answers, 0);
  expect(times).toEqual([
    { jobId: 1, phase: 'slacken', minutes: 2 },
    { jobId: 2, phase: 'slacken', minutes: 2 },
    { jobId: 1, phase: 'clean', minutes: 5 },
  ]);
  expect(pausedMinutes).toBe(0);
});

it('leaves a pause out: the step then counts as it usually takes', () => {
  // Twenty minutes on a step of one: somebody went for lunch. Nineteen on one of five: it was hard.
  const { times, pausedMinutes } = phaseTimes(
    new Map([[1, steps]]),
    [
      { jobId: 1, step: 'a', at: at(20) },
      { jobId: 1, step: 'c', at: at(39) },
    ],
    0,
  );
  expect(times.map((t) => t.minutes)).toEqual([1, 19]);
  expect(pausedMinutes).toBe(19);
});

it('counts an answer that arrives out of order, or twice, once in its place', () => {
  const once = [
    { jobId: 1, step: 'b', at: at(2) },
    { jobId: 1, step: 'a', at: at(1) },
  ];
  const { times } = phaseTimes(new Map([[1, steps]]), once, 0);
  expect(times).toEqual([{ jobId: 1, phase: 'slacken', minutes: 2 }]);
});
