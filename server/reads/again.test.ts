import { expect, it } from 'vitest';
import { ReadAgain } from './again';
import type { ReadName } from './reads';

it('what was asked for lately is read again after a change, once, and never before a question that waits', async () => {
  let clock = 0;
  let change = 1;
  const reads: [ReadName, unknown[]][] = [];
  let whileReading = async () => {};
  const again = new ReadAgain({
    now: () => clock,
    lastChange: async () => change,
    read: async (name, rest) => {
      reads.push([name, rest]);
      await whileReading();
    },
  });
  const ask = (name: ReadName, ...rest: unknown[]) => again.answer(name, rest, async () => 'said');
  // Nobody asked yet.
  expect(await again.look()).toEqual([]);
  expect(await ask('planPage', 1)).toBe('said');
  await ask('stockAhead', 2);
  // Short reads, and those that many arguments tell apart, are read when they are asked for.
  await ask('productPage', 3);
  await again.look();
  reads.length = 0;
  expect(await again.look()).toEqual([]);
  change = 2;
  expect(await again.look()).toEqual(['planPage', 'stockAhead']);
  expect(reads).toEqual([
    ['planPage', [1]],
    ['stockAhead', [2]],
  ]);
  expect(await again.look()).toEqual([]);
  // A question that comes between goes first; the rest follows at the next look.
  change = 3;
  let answered: (() => void) | undefined;
  whileReading = async () => {
    whileReading = async () => {};
    void again.answer('toCount', [], () => new Promise<void>((done) => (answered = done)));
  };
  expect(await again.look()).toEqual(['planPage']);
  expect(await again.look()).toEqual([]);
  answered?.();
  await new Promise((next) => setTimeout(next));
  expect(await again.look()).toEqual(['planPage', 'stockAhead']);
  // A minute later nobody looks any more.
  clock = 61_000;
  change = 4;
  expect(await again.look()).toEqual([]);
  // Who asks after that reads by asking; what changes then is read again.
  await ask('stockAhead', 5);
  await again.look();
  change = 5;
  expect(await again.look()).toEqual(['stockAhead']);
  // What could not be read is left alone until somebody asks.
  await expect(again.answer('stockAhead', [5], () => Promise.reject(new Error('no room')))).rejects.toThrow('no room');
  change = 6;
  expect(await again.look()).toEqual([]);
});
