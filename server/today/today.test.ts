import { expect, it } from 'vitest';
import { acting, houseEntries, NOW, smallProgramme } from '../../tests/support/small';
import { finishJob } from '../bench/finish';
import { openJob } from '../bench/jobs';
import { horizonData } from '../fleet/list';
import { reportTrouble } from '../fleet/report';
import { setBusy } from '../plan/busy';
import { teacherDay } from './teacher';
import { todayAt } from './today';

const TODAY = '2026-03-10';

it('what everybody at a place sees is computed once, and anew after whatever changes it, for each horizon by itself', async () => {
  const { db } = await smallProgramme();
  let asked = 0;
  db.on('query', () => {
    asked += 1;
  });
  const at = { today: TODAY, now: NOW, horizon: '2026-03-20' };
  const seen = async (more: Partial<typeof at> = {}) => {
    const t = await todayAt(db, 1, { ...at, ...more, personId: 1 });
    return {
      open: t.openJobs.map((j) => j.tag),
      reports: t.reports.length,
      lent: t.lent.map((l) => l.tag),
      count: t.count,
    };
  };
  const queries = async (what: () => Promise<unknown>): Promise<number> => {
    const before = asked;
    await what();
    return asked - before;
  };
  const teacher = () => teacherDay(db, { id: 1, placeId: 1 }, { today: TODAY, now: NOW, timeZone: 'UTC' });
  const first = await queries(seen);
  expect(await queries(seen)).toBeLessThan(first / 3);
  const day = await queries(teacher);
  expect(await queries(teacher)).toBeLessThan(day / 2);

  // Opened, reported, lent, finished: each is there at once.
  const { jobId } = await openJob(db, acting(), { tag: 'AC-1' });
  expect((await seen()).open).toEqual(['AC-1']);
  await reportTrouble(db, acting(2), { tag: 'UK-1', kind: 'dull', numbers: [], text: 'sounds dull' });
  expect((await seen()).reports).toBe(1);
  const before = await seen();
  await setBusy(db, acting(), { tag: 'UK-1', from: TODAY, to: TODAY, why: 'on loan' });
  expect((await seen()).lent).toEqual(['UK-1']);
  expect((await seen()).count).toBe(before.count - 1);
  await finishJob(db, acting(), {
    jobId,
    expectedVersion: 1,
    entries: (await houseEntries(db, 'AC-1')).map((e) => ({ ...e, found: true })),
    discard: [],
    notes: '',
    minutes: 20,
  });
  expect((await seen()).open).toEqual([]);
  expect((await teacher()).notReady.map((n) => n.tag)).toContain('AC-1');

  // Another horizon is another question, and so is another day; going back is the first again.
  const far = await seen({ horizon: '2027-03-20' });
  expect(far.count).toBeGreaterThanOrEqual((await seen()).count);
  const ruler = await horizonData(db, { today: TODAY, horizon: '2026-03-20' });
  expect(await horizonData(db, { today: TODAY, horizon: '2027-01-01' })).toEqual({ ...ruler, horizon: '2027-01-01' });
  await db.destroy();
});
