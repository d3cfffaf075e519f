import { expect, it } from 'vitest';
import { acting, smallProgramme } from '../../tests/support/small';
import { endWorkers } from '../apart';
import { planPage } from '../plan/page';
import { stockAhead } from '../stock/ahead';
import { toCount } from '../stock/counts';
import { receive } from '../stock/moves';
import { readBeside } from './reader';

const TODAY = '2026-03-10';
const NOW = Date.parse('2026-03-10T10:00:00Z');

it('the thread beside reads what the server reads, sees each change at once, and is begun anew when it ended', async () => {
  const { db, setIds } = await smallProgramme();
  const at = { today: TODAY, now: NOW };
  expect(await readBeside(db, 'planPage', at)).toBe(await planPage(db, at));
  const ahead = { today: TODAY, service: 0.95 };
  expect(await readBeside(db, 'stockAhead', ahead)).toEqual(await stockAhead(db, ahead));
  for (let n = 1; n <= 3; n++) {
    await receive(db, acting(), {
      productId: setIds.get('GAN-V-44') as number,
      quantity: n,
      placeId: 1,
      unitCostCents: 100,
    });
    expect(await readBeside(db, 'toCount', 1)).toEqual(await toCount(db, 1));
  }
  await endWorkers();
  expect(await readBeside(db, 'toCount', 1)).toEqual(await toCount(db, 1));
  // Within a change it is read there.
  await db
    .transaction(async (trx) => {
      await trx('lot_balance').del();
      expect(await readBeside(trx, 'toCount', 1)).toEqual([]);
      await trx.rollback();
    })
    .catch(() => {});
  expect((await readBeside(db, 'toCount', 1)).length).toBeGreaterThan(0);
  await endWorkers();
  await db.destroy();
});
