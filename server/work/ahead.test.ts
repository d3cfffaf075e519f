import type { Knex } from 'knex';
import { afterEach, beforeEach, expect, it } from 'vitest';
import { addDays } from '../../core/dates';
import { acting, houseEntries, NOW, smallProgramme } from '../../tests/support/small';
import { finishJob } from '../bench/finish';
import { openJob } from '../bench/jobs';
import { instrumentPage } from '../fleet/page';
import { reportTrouble } from '../fleet/report';
import { effortsOf } from '../plan/efforts';
import { loadProgramme } from '../programme/programme';
import { stockAhead } from '../stock/ahead';
import { kitProblem } from '../stock/kit';
import { todayAt } from '../today/today';
import { workAhead } from './ahead';

let db: Knex;
const TODAY = '2026-03-10';
const DAY = 86_400_000;
beforeEach(async () => {
  ({ db } = await smallProgramme());
});
afterEach(() => db.destroy());

async function changed(tag: string, days: number, minutes?: number): Promise<number> {
  const by = () => acting(1, undefined, NOW - days * DAY);
  const { jobId } = await openJob(db, by(), { tag });
  const job = await db('job as j')
    .join('procedure_snapshot as s', 's.hash', 'j.procedure_hash')
    .where('j.id', jobId)
    .first();
  const card: number = JSON.parse(job.body).minutes;
  const entries = (await houseEntries(db, tag)).map((e) => ({ ...e, found: true }));
  await finishJob(db, by(), {
    jobId,
    expectedVersion: 1,
    entries,
    discard: [],
    notes: '',
    minutes: minutes ?? card,
  });
  return card;
}

it('whoever takes as long as the card says is planned for as long as the card says, on every kind of build', async () => {
  for (const [tag, family] of [
    ['UK-1', 'ukulele'],
    ['VN-1', 'violin'],
    ['AC-1', 'steel-acoustic'],
  ] as const) {
    let card = 0;
    for (let n = 0; n < 6; n++) card = await changed(tag, 60 - n);
    const learned = (await effortsOf(db, TODAY)).of(1, family, card).minutes;
    // The mean of a spread lies a little above its middle.
    expect(learned / card, family).toBeGreaterThan(0.99);
    expect(learned / card, family).toBeLessThan(1.06);
  }
});

it('a string that is reported broken is planned, kitted, asked of the shelf and opened as that string', async () => {
  await changed('UK-1', 20);
  await changed('AC-1', 20);
  await changed('UK-2', 20);
  await changed('VN-1', 20);
  const position = await db('instrument_position as p')
    .join('instrument as i', 'i.id', 'p.instrument_id')
    .where({ 'i.tag': 'UK-1', 'p.number': 2 })
    .first();
  const asked = async () => {
    const { demand } = await stockAhead(db, { today: TODAY, service: 0.95 });
    return demand.filter((d) => d.on === TODAY).map((d) => [d.productId, d.halves]);
  };
  expect(await asked()).toEqual([]);
  await reportTrouble(db, acting(), { tag: 'UK-1', kind: 'broken', numbers: [2], text: 'it snapped' });
  expect(await asked()).toEqual([[String(position.house_product_id), position.house_half ? 1 : 2]]);
  const [work] = await workAhead(db, { first: TODAY, until: TODAY });
  expect(work).toMatchObject({ kind: 'change', what: 'one string', because: 'broken' });
  const kit = await kitProblem(db, { tags: ['UK-1'], placeId: 1, on: TODAY, today: TODAY });
  expect(kit.problem.needs.map((n) => n.count)).toEqual([1]);
  const today = await todayAt(db, 1, { today: TODAY, now: NOW, horizon: TODAY });
  expect(today.minutes).toBeCloseTo(work?.minutes ?? 0);
  const { jobId } = await openJob(db, acting(), { tag: 'UK-1' });
  expect(await db('job').where({ id: jobId }).first()).toMatchObject({ kind: 'one-string', strings: '[2]' });
});

it('where the rest is old the set is changed: the page advises what the plan, the kit, the shelf and the bench count', async () => {
  for (const tag of ['AC-1', 'UK-2', 'VN-1']) await changed(tag, 20);
  await changed('UK-1', 170);
  await reportTrouble(db, acting(), { tag: 'UK-1', kind: 'broken', numbers: [2], text: 'it snapped' });
  const programme = await loadProgramme(db);
  if (!programme) throw new Error('no programme');
  const page = await instrumentPage(db, 'UK-1', { today: TODAY, now: NOW, programme });
  expect(page.work.advice).toMatchObject({ change: 'set', number: 2 });
  const [work] = await workAhead(db, { first: TODAY, until: TODAY });
  expect(work).toMatchObject({ kind: 'change', what: 'full set' });
  const { demand } = await stockAhead(db, { today: TODAY, service: 0.95 });
  expect(demand.filter((d) => d.on === TODAY).length).toBe(4);
  const kit = await kitProblem(db, { tags: ['UK-1'], placeId: 1, on: TODAY, today: TODAY });
  expect(kit.problem.needs.reduce((n, x) => n + x.count, 0)).toBe(4);
  const { jobId } = await openJob(db, acting(), { tag: 'UK-1' });
  expect(await db('job').where({ id: jobId }).first()).toMatchObject({ kind: 'full-set' });
});

it('what the plan in force changes on a day is asked of the shelf on that day, unless it was set aside', async () => {
  await changed('VN-1', 400);
  const strings = (
    await db('instrument_position as p')
      .join('instrument as i', 'i.id', 'p.instrument_id')
      .where({ 'i.tag': 'VN-1' })
      .select('p.house_product_id', 'i.id')
  ).map((p) => ({ product: String(p.house_product_id), instrument: p.id as number }));
  const days = async () => {
    // Something changes, so that nothing is answered from memory.
    await changed('AC-1', 5);
    const { demand } = await stockAhead(db, { today: TODAY, service: 0.95 });
    return [...new Set(demand.filter((d) => strings.some((s) => s.product === d.productId)).map((d) => d.on))];
  };
  expect(await days()).toEqual([TODAY]);
  const later = addDays(TODAY, 3);
  const [plan] = await db('plan').insert({ person_id: 1, published_at: NOW, cost: 0, bound: null }).returning('id');
  const job = {
    plan_id: plan?.id ?? 0,
    instrument_id: strings[0]?.instrument ?? 0,
    kind: 'change',
    person_id: 1,
    place_id: 1,
  };
  await db('plan_job').insert({ ...job, on_day: later, minutes: 30, locked: false, learner_id: null, starts_at: NOW });
  expect(await days()).toEqual([later]);
  await db('plan_job').update({ aside: 'no-room' });
  expect(await days()).toEqual([TODAY]);
});
