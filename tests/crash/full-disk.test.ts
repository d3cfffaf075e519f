import { expect, it } from 'vitest';
import { finishJob } from '../../server/bench/finish';
import { openJob } from '../../server/bench/jobs';
import { problemOf } from '../../src/api/problem';
import { acting, houseEntries, replayed, shelf, smallProgramme } from '../support/small';

it('a full disk records nothing, says so, and the same press works when there is room again', async () => {
  const { db } = await smallProgramme();
  const { jobId } = await openJob(db, acting(), { tag: 'AC-1' });
  const before = await shelf(db);
  const body = {
    jobId,
    expectedVersion: 1,
    entries: await houseEntries(db, 'AC-1'),
    discard: [],
    notes: 'x'.repeat(50_000),
    minutes: 5,
  };
  // SQLite behaves at its page limit as it does on a full disk.
  const [{ page_count: pages }] = await db.raw('pragma page_count');
  await db.raw(`pragma max_page_count = ${pages}`);
  const error = await finishJob(db, acting(1, 'disk-key'), body).catch((e: unknown) => e);
  const answer = problemOf(error);
  expect(answer.status).toBe(507);
  expect((await answer.json()).detail).toContain('Free some space');
  expect(await shelf(db)).toEqual(before);
  expect(await db('change_record')).toEqual([]);
  await db.raw('pragma max_page_count = 1000000');
  await finishJob(db, acting(1, 'disk-key'), body);
  expect(await db('change_record')).toHaveLength(1);
  expect(await replayed(db)).toEqual(await shelf(db));
  await db.destroy();
});
