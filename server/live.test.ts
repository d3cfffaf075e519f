import { afterEach, expect, it } from 'vitest';
import { smallProgramme } from '../tests/support/small';
import { changesAsTheyHappen, countListening, endListening } from './live';

afterEach(endListening);

it('one person’s open pages are bounded, and keep nobody else from listening', async () => {
  const { db } = await smallProgramme();
  const first = changesAsTheyHappen(db, 1)?.getReader();
  for (let i = 0; i < 500; i++) expect(changesAsTheyHappen(db, 1)).not.toBeNull();
  expect(changesAsTheyHappen(db, 2)).not.toBeNull();
  expect(countListening()).toBe(13);
  // The oldest page is told that it ends, and asks again.
  await first?.read();
  expect((await first?.read())?.done).toBe(true);
  endListening();
  await db.destroy();
});
