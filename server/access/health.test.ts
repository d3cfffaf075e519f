import { expect, it } from 'vitest';
import { acting, NOW, smallProgramme } from '../../tests/support/small';
import { reportTrouble } from '../fleet/report';
import { machineTroubles } from './health';

it('a clock that was set back is told, also after something was recorded by it', async () => {
  const { db } = await smallProgramme();
  const report = (at: number) =>
    reportTrouble(db, acting(2, `at-${at}`, at), { tag: 'UK-1', kind: 'dull', numbers: [], text: 'dull' });
  const ofClock = async (now: number) => (await machineTroubles(db, now)).filter((t) => t.includes('clock'));
  await report(NOW);
  expect(await ofClock(NOW)).toEqual([]);
  expect(await ofClock(NOW - 3_600_000)).toHaveLength(1);
  await report(NOW - 3_600_000);
  expect(await ofClock(NOW - 3_500_000)).toHaveLength(1);
  await db.destroy();
});
