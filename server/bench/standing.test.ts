import type { Knex } from 'knex';
import { afterEach, beforeEach, expect, it } from 'vitest';
import { acting, houseEntries, NOW, smallProgramme } from '../../tests/support/small';
import { must } from '../db/must';
import { loadCase } from '../faults/cases';
import { instrumentPage } from '../fleet/page';
import { reportTrouble } from '../fleet/report';
import { addAvailability } from '../plan/availability';
import { setBusy } from '../plan/busy';
import { effortsOf } from '../plan/efforts';
import { planInput } from '../plan/problem';
import { requestJob } from '../plan/requests';
import { learnedOf } from '../plan/signOffs';
import { usedByWeek } from '../stock/catalogue';
import { todayAt } from '../today/today';
import { finishJob } from './finish';
import { openJob, saveAnswer } from './jobs';
import { finishLook } from './look';
import { undoFinish } from './undo';

let db: Knex;
const TODAY = '2026-03-10';
const DAY = 86_400_000;
beforeEach(async () => {
  ({ db } = await smallProgramme());
});
afterEach(() => db.destroy());
const ago = (days: number, personId = 1) => acting(personId, undefined, NOW - days * DAY);

async function changed(tag: string, days: number, minutes: number, personId = 1): Promise<number> {
  const { jobId } = await openJob(db, ago(days, personId), { tag });
  const entries = (await houseEntries(db, tag)).map((e) => ({ ...e, found: true }));
  const finish = { jobId, expectedVersion: 1, entries, discard: [], notes: '', minutes };
  return (await finishJob(db, ago(days, personId), finish)).recordId;
}
/** Takes a record back and puts the job away that this opens again. */
async function takenBack(recordId: number, days: number) {
  const { jobId } = await undoFinish(db, ago(days), { recordId, reason: 'wrong one' });
  await db('job').where({ id: jobId }).update({ status: 'cancelled' });
}

it('what was taken back counts nowhere: not for minutes, not for what is learned, not for packs used, not for loads', async () => {
  const before = (await effortsOf(db, TODAY)).of(2, 'steel-acoustic', 30).minutes;
  await changed('AC-1', 40, 30);
  const helper = { id: 2, role: 'helper' as const };
  for (let n = 0; n < 6; n++) await takenBack(await changed('AC-1', 30 - n, 180, 2), 30 - n);
  expect((await effortsOf(db, TODAY)).of(2, 'steel-acoustic', 30).minutes).toBeLessThan(1.3 * before);
  expect((await learnedOf(db, [helper], TODAY)).get('2/steel-acoustic')?.done ?? 0).toBe(0);
  const set = must(await db('product').where({ sku: 'FUL-1253' }).first());
  const used = await usedByWeek(db, set.id, TODAY, 8);
  expect(used.reduce((a, b) => a + b, 0)).toBe(1);
  await addAvailability(db, acting(), { personId: 2, placeId: 1, weekday: 3, minutes: 60, starts: '09:00' });
  const { problem } = await planInput(db, { today: TODAY, now: NOW });
  expect(problem.people.map((p) => p.workedMinutes)).toEqual([30, 0]);
});

it('a change that is taken back opens again what it had answered, unless that was asked for anew', async () => {
  await changed('UK-1', 60, 15);
  const ask = (why: string) => requestJob(db, acting(), { tag: 'UK-1', kind: 'service', dueOn: TODAY, why });
  const open = () => db('plan_request').where({ status: 'open' }).pluck('why');
  await ask('dry board');
  const record = await changed('UK-1', 0, 15);
  expect(await open()).toEqual([]);
  await takenBack(record, 0);
  expect(await open()).toEqual(['dry board']);
  const again = await changed('UK-1', 0, 15);
  await ask('asked anew');
  await takenBack(again, 0);
  expect(await open()).toEqual(['asked anew']);
});

it('a retune that is recorded as a job makes the visit that asked for it, as late as it was done and no later', async () => {
  await changed('UK-1', 1, 15);
  const open = () => db('follow_up').where({ status: 'open', kind: 'retune' }).orderBy('day').pluck('day');
  expect(await open()).toEqual([1, 3]);
  const { jobId } = await openJob(db, ago(0.1), { tag: 'UK-1', kind: 'retune' });
  const at = NOW - 2 * 3_600_000;
  const look = { outcome: 'done' as const, referredTo: '', inspection: null, notes: '', minutes: 3 };
  // It arrives later than it was done.
  await finishLook(db, acting(1, undefined, NOW + 3 * DAY), { jobId, expectedVersion: 1, ...look, at });
  expect(await open()).toEqual([3]);
  expect(await db('change_record').where({ job_id: jobId }).first()).toMatchObject({ at, on_day: TODAY });
});

it('the server keeps a step that cannot be undone only when its gate is open, or with the reason', async () => {
  const { jobId } = await openJob(db, acting(), { tag: 'AC-1' });
  const job = must(await db('job').where({ id: jobId }).first());
  const { body } = must(
    await db('procedure_snapshot')
      .where({ hash: job.procedure_hash ?? '' })
      .first(),
  );
  const steps: { key: string; gate?: string }[] = JSON.parse(body).steps;
  const gated = steps.find((s) => s.gate) as { key: string };
  const answer = (step: string, passed?: string) =>
    saveAnswer(db, acting(), { jobId, step, outcome: 'done', passed, cursor: 'finish' });
  await expect(answer(gated.key)).rejects.toMatchObject({ type: 'gate', status: 422 });
  await expect(answer(gated.key, '')).rejects.toMatchObject({ type: 'gate' });
  await answer(gated.key, 'A supervisor has agreed');
  for (const s of steps.filter((x) => !x.gate)) await answer(s.key);
  await answer(gated.key);
});

it('what is lent is due and not today’s work, and is not planned into weeks in which it is away', async () => {
  const today = () => todayAt(db, 1, { today: TODAY, now: NOW, horizon: '2026-04-10' });
  expect((await today()).batches.flatMap((b) => b.pieces.map((p) => p.tag))).toContain('AC-1');
  await setBusy(db, acting(), { tag: 'ac-1', from: '2026-03-01', to: '2027-03-01', why: 'on tour' });
  const t = await today();
  expect(t.batches.flatMap((b) => b.pieces.map((p) => p.tag))).not.toContain('AC-1');
  expect(t.lent).toEqual([{ tag: 'AC-1', until: '2027-03-01' }]);
  await addAvailability(db, acting(), { personId: 1, placeId: 1, weekday: 1, minutes: 600, starts: '08:00' });
  const input = await planInput(db, { today: TODAY, now: NOW });
  const at = input.jobs.findIndex((j) => j.tag === 'AC-1');
  expect(input.problem.jobs[at]?.release).toBe(input.problem.days);
  // A session of today that is over takes no work; one that has begun has what is left of it.
  await addAvailability(db, acting(), { personId: 1, placeId: 1, weekday: 2, minutes: 90, starts: '08:00' });
  await addAvailability(db, acting(), { personId: 2, placeId: 1, weekday: 2, minutes: 90, starts: '09:00' });
  const shifts = (await planInput(db, { today: TODAY, now: NOW })).shifts.filter((s) => s.on === TODAY);
  expect(shifts).toMatchObject([{ personId: 2, starts: '10:00', minutes: 30 }]);
});

it('a label says ready of nothing that is broken, reported, slack, unknown, slipping or with a repairer', async () => {
  const programme = { name: 'Small', timeZone: 'UTC', a4Hz: 440, isDemo: false };
  const state = async (tag: string) =>
    (await instrumentPage(db, tag, { today: TODAY, now: NOW, programme })).readiness.state;
  expect(await state('UK-1')).toBe('unknown');
  await changed('UK-1', 30, 15);
  expect(await state('UK-1')).toBe('ready');
  await changed('UK-2', 0.2, 15);
  expect(await state('UK-2')).toBe('settling');
  await reportTrouble(db, acting(), { tag: 'UK-1', kind: 'slack', numbers: [], text: 'all slack' });
  expect(await state('UK-1')).toBe('reported');
  await reportTrouble(db, acting(), { tag: 'UK-2', kind: 'broken', numbers: [1], text: '' });
  expect(await state('UK-2')).toBe('broken');
  const { jobId } = await openJob(db, acting(), { tag: 'VN-1', kind: 'inspection' });
  expect(await state('VN-1')).toBe('on-bench');
  const step = 'first.photograph';
  await saveAnswer(db, acting(), { jobId, step, outcome: 'trouble', mistake: 'needs-repair', cursor: step });
  const look = { outcome: 'referred' as const, referredTo: 'a luthier', inspection: null, notes: 'crack', minutes: 3 };
  const { caseId } = await finishLook(db, acting(), { jobId, expectedVersion: 1, ...look });
  expect(await state('VN-1')).toBe('referred');
  // The note says what a crack asks for.
  expect((await loadCase(db, caseId as number)).next).toMatchObject({ kind: 'referral', topic: 'lifting' });
});
