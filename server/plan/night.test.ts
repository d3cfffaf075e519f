import type { Knex } from 'knex';
import { afterEach, beforeEach, expect, it, vi } from 'vitest';
import { acting, NOW, smallProgramme } from '../../tests/support/small';
import { log } from '../log';
import { addAvailability, setAway } from './availability';
import { dismissProposal, openProposal, planByNight, proposePlan } from './night';
import { publishPlan } from './publish';

let db: Knex;
const TODAY = '2026-03-10';
beforeEach(async () => {
  ({ db } = await smallProgramme());
  for (const weekday of [3, 4, 5])
    await addAvailability(db, acting(), { personId: 1, placeId: 1, weekday, minutes: 120, starts: '09:00' });
});
afterEach(() => db.destroy());

const propose = (key?: string) =>
  proposePlan(db, acting(1, key), { today: TODAY, moves: 20_000, boundSeconds: 2, polishSeconds: 1 });

it('the server’s worker plans as the page does, once for a key, and says nothing when nothing is better', async () => {
  const both = propose('night');
  await new Promise((done) => setTimeout(done, 50));
  // Pressed twice there is one search.
  await expect(propose()).rejects.toMatchObject({ type: 'planning-already', status: 409 });
  const first = await both;
  expect(await propose('night')).toEqual(first);
  const proposal = await openProposal(db, null);
  expect(proposal?.items.map((i) => i.kind)).toEqual(['inspection', 'inspection', 'inspection', 'inspection']);
  expect(proposal?.cost).toBeLessThan(proposal?.costBefore ?? 0);
  expect(proposal?.bound).toBeLessThanOrEqual(proposal?.cost ?? 0);
  const items = (proposal?.items ?? []).map((i) => ({ ...i, minutes: 10, locked: false, learnerId: null }));
  const { planId } = await publishPlan(db, acting(), { basedOn: null, items }, { today: TODAY });
  // It was for the plan before.
  expect(await openProposal(db, planId)).toBeNull();
  expect(await propose()).toEqual({ proposalId: null, saved: 0 });
  // Somebody is away: the plan in force does not hold, and the night mends it.
  const on = proposal?.items[0]?.on ?? '';
  await setAway(db, acting(), { personId: 1, on, why: 'ill' });
  const { proposalId } = await propose();
  expect((await openProposal(db, planId))?.items.every((i) => i.on !== on)).toBe(true);
  await dismissProposal(db, acting(), { id: proposalId as number });
  expect(await openProposal(db, planId)).toBeNull();
});

it('plans at night by itself, once, and not by day', async () => {
  const made = () => db('plan_proposal').count({ n: '*' }).first();
  const stopDay = planByNight(db, { now: () => NOW, when: '* * * * * *' });
  await new Promise((done) => setTimeout(done, 200));
  stopDay();
  expect(await made()).toMatchObject({ n: 0 });
  const night = Date.parse('2026-03-11T03:00:00Z');
  const stop = planByNight(db, { now: () => night, when: '* * * * * *' });
  await expect.poll(made, { timeout: 60_000, interval: 200 }).toMatchObject({ n: 1 });
  await new Promise((done) => setTimeout(done, 300));
  stop();
  expect(await made()).toMatchObject({ n: 1 });
});

it('a database in trouble at night is said in the log, and the process goes on', async () => {
  const said = vi.spyOn(log, 'error').mockImplementation(() => {});
  const gone = (await smallProgramme()).db;
  await gone.destroy();
  const stop = planByNight(gone, { now: () => Date.parse('2026-03-11T03:00:00Z'), when: '0 0 1 1 *' });
  await expect.poll(() => said.mock.calls.length, { timeout: 5000 }).toBeGreaterThan(0);
  stop();
  said.mockRestore();
});
