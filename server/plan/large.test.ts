import { expect, it } from 'vitest';
import { quickPlan } from '../../core/planning/quick';
import { copiesOf } from '../../tests/support/copies';
import { acting, houseEntries, NOW, smallProgramme } from '../../tests/support/small';
import { finishJob } from '../bench/finish';
import { openJob } from '../bench/jobs';
import { todayAt } from '../today/today';
import { addAvailability } from './availability';
import { proposePlan } from './night';
import { latestPlan } from './plans';
import { planInput } from './problem';
import { publishPlan } from './publish';
import { plannedSessions } from './sessions';

const TODAY = '2026-03-10';
const DAY = 86_400_000;

it('at 20,000 instruments that all wait for somebody the plan is made, published and proposed anew', async () => {
  const { db } = await smallProgramme();
  // No statement has more values than the store's limit allows, however large the programme is.
  let most = 0;
  db.on('query', (q: { bindings?: readonly unknown[] }) => {
    most = Math.max(most, q.bindings?.length ?? 0);
  });
  for (const tag of ['AC-1', 'UK-1', 'UK-2']) {
    const then = () => acting(1, undefined, NOW - 2 * DAY);
    const { jobId } = await openJob(db, then(), { tag });
    const entries = (await houseEntries(db, tag)).map((e) => ({ ...e, found: true }));
    await finishJob(db, then(), { jobId, expectedVersion: 1, entries, discard: [], notes: '', minutes: 20 });
  }
  await copiesOf(db, 4999);
  expect(Number((await db('instrument').count({ n: '*' }))[0]?.n)).toBe(20_000);
  // Some two thousand wait for a visit or a change; the others are as long on the books.
  await db('follow_up').whereRaw('instrument_id / 1000000 % 10 > 0').update({ status: 'done' });
  await db('instrument_state')
    .whereRaw('instrument_id % 10000000 = 4')
    .update({
      due_on: TODAY,
      due_by: 'calendar',
      due: db.raw("json_set(due, '$.by', 'calendar')"),
      due_work: 'change',
    });
  for (const [personId, weekday] of [1, 2].flatMap((p) => [1, 2, 3, 4, 5].map((d) => [p, d] as const)))
    await addAvailability(db, acting(), { personId, placeId: 1, weekday, minutes: 360, starts: '09:00' });

  const { problem, jobs, shifts, beyond } = await planInput(db, { today: TODAY, now: NOW });
  // What does not fit in is told.
  const due = Number((await db('instrument_state').where('due_on', '<=', '2026-04-06').count({ n: '*' }).first())?.n);
  expect(beyond).toBe(due - 2000);
  expect(jobs.length).toBeGreaterThan(1500);
  const items = [...quickPlan(problem)].flatMap((at, i) => {
    const [shift, job] = [shifts[at], jobs[i]];
    if (!shift || !job) return [];
    const { instrumentId, kind } = job;
    const { personId, placeId, on, startsAt } = shift;
    return [{ instrumentId, kind, personId, placeId, on, startsAt, minutes: 10, locked: false, learnerId: null }];
  });
  expect(items.length).toBeGreaterThan(100);
  const { planId } = await publishPlan(db, acting(), { basedOn: null, items }, { today: TODAY });
  expect((await latestPlan(db))?.id).toBe(planId);
  expect((await plannedSessions(db, { placeId: 1 }, { today: TODAY, timeZone: 'UTC' })).length).toBeGreaterThan(0);
  await proposePlan(db, acting(), { today: TODAY, moves: 2000, boundSeconds: 0, polishSeconds: 0 });
  await todayAt(db, 1, { today: TODAY, now: NOW, horizon: '2026-04-10' });
  expect(most).toBeLessThan(10_000);
  await db.destroy();
});
