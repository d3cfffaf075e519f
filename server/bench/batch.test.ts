import type { Knex } from 'knex';
import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import type { Said } from '../../core/procedures/answers';
import { acting, houseEntries, NOW, replayed, shelf, smallProgramme } from '../../tests/support/small';
import { must } from '../db/must';
import { loadBatch, openBatch } from './batch';
import { departJob } from './depart';
import { finishJob } from './finish';
import { besideOf } from './finishWords';
import { loadJob, openJob, saveAnswer } from './jobs';
import { undoFinish } from './undo';

let db: Knex;
beforeEach(async () => {
  ({ db } = await smallProgramme());
});
afterEach(() => db.destroy());

const minutes = (n: number) => NOW + n * 60_000;
const answer = (jobId: number, step: string, at: number, said: Said = { outcome: 'done' }) =>
  saveAnswer(db, acting(1, undefined, NOW + 3 * 3_600_000), { jobId, step, ...said, cursor: step, at });
const finish = async (jobId: number, tag: string, broken: Record<number, number> = {}, more = {}) => {
  const entries = (await houseEntries(db, tag)).map((e) => ({ ...e, broken: broken[e.number] ?? 0 }));
  const job = await loadJob(db, jobId);
  return finishJob(db, acting(), {
    jobId,
    expectedVersion: job.version,
    entries,
    discard: [],
    notes: '',
    minutes: null,
    ...more,
  });
};

describe('a batch', () => {
  it('opens all or none, joins what is open, and counts minutes for the one that was in hand', async () => {
    const alone = await openJob(db, acting(), { tag: 'UK-1' });
    await expect(openBatch(db, acting(), { tags: ['UK-1', 'NO-1'] })).rejects.toMatchObject({ status: 404 });
    expect(await db('batch')).toEqual([]);
    await expect(openBatch(db, acting(), { tags: ['UK-1', 'UK-1'] })).rejects.toMatchObject({ type: 'how-many' });
    const { batchId } = await openBatch(db, acting(), { tags: ['UK-1', 'UK-2'] });
    const { jobs } = await loadBatch(db, batchId);
    expect(jobs.map((j) => j.tag)).toEqual(['UK-1', 'UK-2']);
    expect(jobs[0]?.id).toBe(alone.jobId);
    const [a, b] = jobs as [(typeof jobs)[0], (typeof jobs)[0]];
    const [first, second] = (a.procedure?.steps ?? []) as { key: string; phase: string }[];
    await answer(a.id, first?.key ?? '', minutes(1));
    await answer(b.id, first?.key ?? '', minutes(3));
    await answer(a.id, second?.key ?? '', minutes(4));
    await finish(a.id, 'UK-1');
    const kept = await db('job_phase').where({ job_id: a.id });
    expect(kept.reduce((sum, r) => sum + r.minutes, 0)).toBeCloseTo(2, 6);
  });
});

describe('a string lost on the way', () => {
  it('takes its successor at once, leaves the opened set as singles, and is not taken twice at the finish', async () => {
    const { jobId } = await openJob(db, acting(), { tag: 'AC-1' });
    const { procedure } = await loadJob(db, jobId);
    const tune = procedure?.steps.find((s) => s.mistakes?.includes('snaps') && s.positions.includes(1));
    const set = (await shelf(db))['FUL-1253 set'] ?? 0;
    const { loss } = await answer(jobId, tune?.key ?? '', minutes(5), {
      outcome: 'trouble',
      mistake: 'snaps',
      number: 1,
    });
    expect(loss).toMatchObject({ number: 1, from: 'Workshop', left: 5 });
    const opened = await shelf(db);
    expect(opened['FUL-1253 set'] ?? 0).toBe(set - 1);
    expect(await replayed(db)).toEqual(opened);
    // The shelf had one set: without its first string the finish is short of one and says so.
    await expect(finish(jobId, 'AC-1', { 1: 1 })).rejects.toMatchObject({ type: 'stock-short' });
    const entries = (await houseEntries(db, 'AC-1')).map((e) =>
      e.number === 1 ? { ...e, broken: 1, found: true } : e,
    );
    const record = await finishJob(db, acting(), {
      jobId,
      expectedVersion: 1,
      entries,
      discard: [],
      notes: '',
      minutes: null,
      parts: [{ part: 'pin', fate: 'keep-in-place', expected: 6, counted: 5 }],
      at: minutes(40),
    });
    const entry = must(await db('string_entry').where({ record_id: record.recordId, number: 1 }).first());
    expect(entry.cost_cents).toBeGreaterThan(0);
    expect(entry.at).toBe(NOW);
    const written = must(await db('change_record').where({ id: record.recordId }).first());
    expect(besideOf(written)).toEqual(['Not accounted for: pin (5 of 6).']);
    expect(await replayed(db)).toEqual(await shelf(db));
    // Taken back, what broke stays broken; recorded anew, it is not taken again.
    await undoFinish(db, acting(), { recordId: record.recordId, reason: '' });
    await finish(jobId, 'AC-1', { 1: 1 });
    expect(await db('job_loss').where({ returned: false })).toHaveLength(1);
    expect(await replayed(db)).toEqual(await shelf(db));
  });

  it('goes back to the shelf when the finish says nothing broke', async () => {
    const { jobId } = await openJob(db, acting(), { tag: 'AC-1' });
    const { procedure } = await loadJob(db, jobId);
    const tune = procedure?.steps.find((s) => s.mistakes?.includes('snaps'));
    await answer(jobId, tune?.key ?? '', minutes(5), { outcome: 'trouble', mistake: 'snaps', number: 1 });
    // The one that was booked out is still there; the count of the finish is the last word.
    const entries = (await houseEntries(db, 'AC-1')).map((e) => (e.number === 1 ? { ...e, found: true } : e));
    await finishJob(db, acting(), {
      jobId,
      expectedVersion: 1,
      entries,
      discard: [],
      notes: '',
      minutes: null,
    });
    expect(await db('job_loss').where({ returned: false })).toEqual([]);
    expect(await replayed(db)).toEqual(await shelf(db));
  });
});

describe('departing from the house method at the bench', () => {
  const depart = (jobId: number, expectedVersion: number, method: object, reason = 'for a recording') =>
    departJob(db, acting(), { jobId, expectedVersion, method, reason });

  it('asks why once, keeps what was answered, and goes on where the new card does', async () => {
    const { jobId } = await openJob(db, acting(), { tag: 'AC-1' });
    const before = await loadJob(db, jobId);
    const [first] = before.procedure?.steps ?? [];
    await answer(jobId, first?.key ?? '', minutes(1));
    await expect(depart(jobId, 1, { stretchRounds: 0 }, '')).rejects.toMatchObject({ type: 'no-reason' });
    const { jobVersion, cursor } = await depart(jobId, 1, { stretchRounds: 0 });
    const after = await loadJob(db, jobId);
    expect(after.version).toBe(jobVersion);
    expect(after.procedure?.method.stretchRounds).toBe(0);
    expect(cursor).toBe(after.procedure?.steps[1]?.key);
    expect(after.departure?.differs).toEqual(['the rounds of stretching']);
    await depart(jobId, 2, { winds: 'self-lock' }, 'it slipped last time');
    expect((await loadJob(db, jobId)).departure?.reason).toBe('for a recording; it slipped last time');
    await expect(depart(jobId, 2, { stretchRounds: 1 })).rejects.toMatchObject({ status: 409 });
  });

  it('leaves how many at a time alone once a string is slack', async () => {
    const { jobId } = await openJob(db, acting(), { tag: 'AC-1' });
    const slacken = (await loadJob(db, jobId)).procedure?.steps.find((s) => s.phase === 'slacken');
    await answer(jobId, slacken?.key ?? '', minutes(1));
    await expect(depart(jobId, 1, { atATime: 1 })).rejects.toMatchObject({ type: 'too-late' });
    expect((await loadJob(db, jobId)).version).toBe(1);
  });
});
