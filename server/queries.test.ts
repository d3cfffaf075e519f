import type { Knex } from 'knex';
import { expect, it } from 'vitest';
import { copiesOf } from '../tests/support/copies';
import { acting, houseEntries, NOW, smallProgramme } from '../tests/support/small';
import { finishJob } from './bench/finish';
import { openJob } from './bench/jobs';
import { folderOf, openReader } from './db/connection';
import { horizonData, listFleet } from './fleet/list';
import { instrumentPage } from './fleet/page';
import { addAvailability } from './plan/availability';
import { planInput } from './plan/problem';
import { plannedSessions } from './plan/sessions';
import { learnedOf } from './plan/signOffs';
import { stockAhead } from './stock/ahead';
import { toCount } from './stock/counts';
import { kitProblem } from './stock/kit';
import { loadOrders } from './stock/orders';
import { todayAt } from './today/today';

const TODAY = '2026-03-10';
const HORIZON = '2026-06-10';
const programme = { name: 'Small', timeZone: 'UTC', a4Hz: 440, isDemo: false };

/** What pages ask the database for. */
const PAGES: Record<string, (db: Knex) => Promise<unknown>> = {
  today: (db) => todayAt(db, 1, { today: TODAY, now: NOW, horizon: HORIZON, personId: 1 }),
  fleet: (db) =>
    listFleet(
      db,
      { q: '', place: null, family: null, due: 'all', sort: 'due', descending: false, offset: 0, limit: 200 },
      { today: TODAY, now: NOW, horizon: HORIZON },
    ),
  ruler: (db) => horizonData(db, { today: TODAY, horizon: HORIZON }),
  instrument: (db) => instrumentPage(db, 'UK-1', { today: TODAY, now: NOW, programme }),
  plan: (db) => planInput(db, { today: TODAY, now: NOW }),
  calendar: (db) => plannedSessions(db, { personId: 1 }, { today: TODAY, timeZone: 'UTC' }),
  learning: (db) => learnedOf(db, [{ id: 2, role: 'helper' }], TODAY),
  stock: (db) => stockAhead(db, { today: TODAY, service: 0.95 }),
  count: (db) => toCount(db, 1),
  orders: (db) => loadOrders(db, TODAY),
  kit: async (db) => {
    const tags = await db('instrument').orderBy('id').limit(150).pluck('tag');
    return kitProblem(db, { tags, placeId: 1, on: TODAY, today: TODAY });
  },
};

/** Statements of each page in a programme so many times over. */
async function asked(times: number): Promise<Record<string, number>> {
  const { db } = await smallProgramme();
  for (const tag of ['AC-1', 'UK-1', 'UK-2', 'VN-1'])
    for (const days of [200, 2]) {
      const by = () => acting(1, undefined, NOW - days * 86_400_000);
      const { jobId } = await openJob(db, by(), { tag });
      const entries = (await houseEntries(db, tag)).map((e) => ({ ...e, found: true }));
      await finishJob(db, by(), { jobId, expectedVersion: 1, entries, discard: [], notes: '', minutes: 20 });
    }
  await addAvailability(db, acting(), { personId: 1, placeId: 1, weekday: 3, minutes: 300, starts: '09:00' });
  await copiesOf(db, times);
  await db('instrument_state').update({ due_on: TODAY, due_by: 'calendar' });
  const counts: Record<string, number> = {};
  for (const [name, page] of Object.entries(PAGES)) {
    // A connection of its own, which remembers nothing of the page before.
    const reader = openReader(folderOf(db));
    let count = 0;
    reader.on('query', () => {
      count += 1;
    });
    await page(reader);
    await reader.destroy();
    counts[name] = count;
  }
  await db.destroy();
  return counts;
}

it('no page asks more of the database because there are more instruments', async () => {
  const few = await asked(2);
  expect(await asked(60)).toEqual(few);
});
