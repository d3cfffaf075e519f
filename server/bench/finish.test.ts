import type { Knex } from 'knex';
import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import type { FinishEntry } from '../../contract/bench';
import type { SmallPart } from '../../core/parts/smallParts';
import { acting, houseEntries, NOW, replayed, shelf, smallProgramme } from '../../tests/support/small';
import { must } from '../db/must';
import { UserError } from '../errors';
import { instrumentPage } from '../fleet/page';
import { reportTrouble } from '../fleet/report';
import { addConsumable } from '../stock/catalogue';
import { receive } from '../stock/moves';
import { completeVisit, todayAt } from '../today/today';
import { doneAsUsual } from './asUsual';
import { finishJob } from './finish';
import { besideOf } from './finishWords';
import { cancelJob, loadJob, openJob, saveAnswer } from './jobs';
import { previewFinish } from './preview';
import { addRecordNote } from './recordNote';
import { undoFinish } from './undo';

let db: Knex;
let singleIds: Map<string, number>;
beforeEach(async () => {
  ({ db, singleIds } = await smallProgramme());
});
afterEach(() => db.destroy());

const programme = { name: 'Small', timeZone: 'UTC', a4Hz: 440, isDemo: false };
const page = (tag: string) => instrumentPage(db, tag, { today: '2026-03-10', now: NOW, programme });
const request = (jobId: number, entries: FinishEntry[], expectedVersion = 1) => ({
  jobId,
  expectedVersion,
  entries,
  discard: [],
  notes: '',
  minutes: 20,
});
const problemOf = (promise: Promise<unknown>) =>
  promise.then(
    () => expect.fail('it went through'),
    (error: unknown) => (error instanceof UserError ? error : Promise.reject(error)),
  );

describe('finishing a string change', () => {
  it('moves the stock, dates the strings, sets visits, moves the due date and answers reports', async () => {
    await reportTrouble(db, acting(), { tag: 'AC-1', kind: 'broken', numbers: [2], text: 'B gone' });
    expect((await page('AC-1')).due.by).toBe('broken');
    const { jobId } = await openJob(db, acting(), { tag: 'AC-1' });
    const done = await finishJob(db, acting(), request(jobId, await houseEntries(db, 'AC-1')));
    expect(done.visits.map((v) => v.kind)).toEqual(['retune', 'retune']);
    expect(done.readyAt).toBe(NOW + 24 * 3_600_000);
    const after = await page('AC-1');
    expect(after.due).toMatchObject({ by: 'calendar', on: '2026-09-06', since: '2026-03-10' });
    expect(after.reports).toEqual([]);
    expect(after.positions.every((p) => p.state === 'settling' && p.by === 'Ann Ex')).toBe(true);
    expect(await shelf(db)).toEqual({ 'GAN-V-44 set': 1, 'KIT-F set': 1 });
    expect(await replayed(db)).toEqual(await shelf(db));
    const audit = await db('audit').where({ action: 'job.finish' }).first();
    expect(audit).toMatchObject({ person_id: 1, at: NOW, entity: 'job', entity_id: jobId });
  });

  it('takes pins from the shelf and puts spacers saved on it; taken back, both are as they were', async () => {
    const add = (sku: string, smallPart: SmallPart) =>
      addConsumable(db, acting(), { sku, name: sku, unit: 'piece', least: 0, priceCents: 50, smallPart });
    const pins = await add('PINS', 'bridge-pin');
    await add('SPACERS', 'ball-end-spacer');
    await receive(db, acting(), { productId: pins.productId, quantity: 3, placeId: 1, unitCostCents: null });
    const before = await shelf(db);
    const { jobId } = await openJob(db, acting(), { tag: 'AC-1' });
    const small = [
      // One more than the book has: they are in the instrument, so they were there.
      { part: 'bridge-pin' as const, used: 4, saved: 0 },
      { part: 'ball-end-spacer' as const, used: 0, saved: 2 },
    ];
    const { recordId } = await finishJob(db, acting(), { ...request(jobId, await houseEntries(db, 'AC-1')), small });
    const after = await shelf(db);
    expect([after['PINS single'] ?? 0, after['SPACERS single']]).toEqual([0, 2]);
    expect(besideOf(must(await db('change_record').where({ id: recordId }).first()))).toEqual([
      '4 bridge pins newly fitted, 2 ball-end spacers saved.',
    ]);
    await undoFinish(db, acting(), { recordId, reason: 'wrong one' });
    const back = await shelf(db);
    expect([back['PINS single'], back['SPACERS single'] ?? 0]).toEqual([before['PINS single'], 0]);
  });

  it('counts once, however often the same press arrives', async () => {
    const { jobId } = await openJob(db, acting(), { tag: 'AC-1' });
    const body = request(jobId, await houseEntries(db, 'AC-1'));
    const [first, second] = await Promise.all([
      finishJob(db, acting(1, 'the-same-key'), body),
      finishJob(db, acting(1, 'the-same-key'), body),
    ]);
    expect(second).toEqual(first);
    expect(await db('change_record')).toHaveLength(1);
    const other = await problemOf(finishJob(db, acting(1, 'the-same-key'), { ...body, notes: 'other' }));
    expect(other.type).toBe('key-reused');
  });

  it('tells the second of two people what the first recorded, and keeps what the second says as a note', async () => {
    const { jobId } = await openJob(db, acting(1), { tag: 'AC-1' });
    expect(await openJob(db, acting(2), { tag: 'AC-1' })).toEqual({ jobId, joined: true });
    const entries = await houseEntries(db, 'AC-1');
    const first = await finishJob(db, acting(1), request(jobId, entries));
    const error = await problemOf(finishJob(db, acting(2), request(jobId, entries)));
    expect(error.status).toBe(409);
    expect(error.detail).toContain('Ann Ex');
    expect(error.extra.current).toMatchObject({ recordId: first.recordId, by: 'Ann Ex' });
    await addRecordNote(db, acting(2), { recordId: first.recordId, text: 'I did the trebles' });
    expect((await page('AC-1')).history[0]?.notes).toEqual(['Ben Wy: I did the trebles']);
  });

  it('refuses what the shelf does not cover, names substitutes, and counts in what lay there only when told', async () => {
    const { jobId } = await openJob(db, acting(), { tag: 'AC-1' });
    const entries = (await houseEntries(db, 'AC-1')).map((e) => (e.number === 1 ? { ...e, broken: 1 } : e));
    const before = await shelf(db);
    const error = await problemOf(finishJob(db, acting(), request(jobId, entries)));
    expect(error.type).toBe('stock-short');
    expect(error.extra.short).toMatchObject([{ number: 1, name: 'Fulmar light 12–53, E4' }]);
    expect(await shelf(db)).toEqual(before);
    expect(await db('change_record')).toEqual([]);
    await finishJob(
      db,
      acting(),
      request(
        jobId,
        entries.map((e) => (e.number === 1 ? { ...e, found: true } : e)),
      ),
    );
    const moves = await db('stock_move').where({ kind: 'count' });
    expect(moves).toMatchObject([{ quantity: 1, why: 'found-at-bench', reason: '' }]);
    expect(await replayed(db)).toEqual(await shelf(db));
  });

  it('uses half of a double-length string and keeps the other half for the next ukulele', async () => {
    const first = await openJob(db, acting(), { tag: 'UK-1' });
    const preview = await previewFinish(
      db,
      1,
      { id: first.jobId, instrument_id: (await loadJob(db, first.jobId)).instrumentId },
      await houseEntries(db, 'UK-1'),
    );
    expect(preview.leftovers.map((l) => [l.form, l.quantity])).toEqual(Array(4).fill(['half', 1]));
    await finishJob(db, acting(), request(first.jobId, await houseEntries(db, 'UK-1')));
    expect((await shelf(db))['KIT-F-4 half']).toBe(1);
    const second = await openJob(db, acting(), { tag: 'UK-2' });
    await finishJob(db, acting(), request(second.jobId, await houseEntries(db, 'UK-2')));
    expect(Object.keys(await shelf(db)).filter((k) => k.startsWith('KIT'))).toEqual([]);
    expect((await page('UK-2')).positions.every((p) => p.half)).toBe(true);
  });

  it('bins a leftover when told, as a move with its reason', async () => {
    const { jobId } = await openJob(db, acting(), { tag: 'UK-1' });
    const key = `${singleIds.get('KIT-F-4')}:half`;
    await finishJob(db, acting(), { ...request(jobId, await houseEntries(db, 'UK-1')), discard: [key] });
    expect((await shelf(db))['KIT-F-4 half']).toBeUndefined();
    expect(await db('stock_move').where({ kind: 'scrap' })).toMatchObject([{ quantity: -1, why: 'left-over' }]);
  });

  it('keeps the date of the strings that stayed when only one is changed', async () => {
    const first = await openJob(db, acting(), { tag: 'AC-1' });
    await finishJob(db, acting(), request(first.jobId, await houseEntries(db, 'AC-1')));
    const later = NOW + 60 * 86_400_000;
    const { jobId } = await openJob(db, acting(1, undefined, later), { tag: 'AC-1' });
    const entries = (await houseEntries(db, 'AC-1')).map(
      (e): FinishEntry => (e.number === 2 ? { ...e, found: true } : { ...e, action: 'kept' }),
    );
    await finishJob(db, acting(1, undefined, later), request(jobId, entries));
    const after = await page('AC-1');
    expect(after.positions.find((p) => p.number === 2)?.since).toBe('2026-05-09');
    expect(after.positions.find((p) => p.number === 1)?.since).toBe('2026-03-10');
    expect(after.due).toMatchObject({ since: '2026-03-10', on: '2026-09-06' });
    expect(after.history[0]?.summary).toBe('B3 only');
  });

  it('wants an answer for every string, and something changed', async () => {
    const { jobId } = await openJob(db, acting(), { tag: 'AC-1' });
    const entries = await houseEntries(db, 'AC-1');
    expect((await problemOf(finishJob(db, acting(), request(jobId, entries.slice(1))))).type).toBe('positions');
    expect(
      (
        await problemOf(
          finishJob(
            db,
            acting(),
            request(
              jobId,
              entries.map((e) => ({ ...e, action: 'kept' as const })),
            ),
          ),
        )
      ).type,
    ).toBe('nothing-changed');
    expect((await problemOf(finishJob(db, acting(), request(jobId, entries, 7)))).status).toBe(409);
  });

  it('sets a bridge check within 24 hours on a floating bridge', async () => {
    const { jobId } = await openJob(db, acting(), { tag: 'VN-1' });
    expect((await loadJob(db, jobId)).procedure?.method.atATime).toBe(1);
    const done = await finishJob(db, acting(), request(jobId, await houseEntries(db, 'VN-1')));
    expect(done.visits.map((v) => `${v.kind} ${v.day}`)).toEqual(['bridge-check 1', 'retune 1', 'retune 3']);
  });
});

describe('taking a change back', () => {
  it('adds a correction, restores shelf, strings, due date, reports and visits, and erases nothing', async () => {
    await reportTrouble(db, acting(), { tag: 'UK-1', kind: 'dull', numbers: [], text: 'dull' });
    const before = { shelf: await shelf(db), due: (await page('UK-1')).due };
    const { jobId } = await openJob(db, acting(), { tag: 'UK-1' });
    const { recordId } = await finishJob(db, acting(), request(jobId, await houseEntries(db, 'UK-1')));
    await undoFinish(db, acting(2), { recordId, reason: 'wrong tag' });
    expect(await shelf(db)).toEqual(before.shelf);
    expect(await replayed(db)).toEqual(before.shelf);
    const after = await page('UK-1');
    expect(after.due).toEqual(before.due);
    expect(after.visits).toEqual([]);
    expect(after.history.map((h) => [h.kind, h.takenBack])).toEqual([
      ['correction', false],
      ['change', true],
    ]);
    expect((await problemOf(undoFinish(db, acting(), { recordId, reason: '' }))).status).toBe(409);
    // The job is open again and can be finished anew.
    const job = await loadJob(db, jobId);
    expect(job).toMatchObject({ status: 'open', version: 3 });
    await finishJob(db, acting(), request(jobId, await houseEntries(db, 'UK-1'), 3));
    expect((await page('UK-1')).positions[0]?.state).toBe('settling');
  });

  it('is refused when its leftover was used since, or a later change stands on it', async () => {
    const one = await openJob(db, acting(), { tag: 'UK-1' });
    const first = await finishJob(db, acting(), request(one.jobId, await houseEntries(db, 'UK-1')));
    const two = await openJob(db, acting(), { tag: 'UK-2' });
    await finishJob(db, acting(), request(two.jobId, await houseEntries(db, 'UK-2')));
    const before = await shelf(db);
    expect((await problemOf(undoFinish(db, acting(), { recordId: first.recordId, reason: '' }))).type).toBe(
      'leftover-used',
    );
    expect(await shelf(db)).toEqual(before);
    const again = await openJob(db, acting(), { tag: 'UK-1' });
    await finishJob(
      db,
      acting(),
      request(
        again.jobId,
        (await houseEntries(db, 'UK-1')).map((e) => ({ ...e, found: true })),
      ),
    );
    expect((await problemOf(undoFinish(db, acting(), { recordId: first.recordId, reason: '' }))).type).toBe(
      'later-change',
    );
  });
});

describe('a job on the bench', () => {
  it('keeps every answer once and knows where it stands', async () => {
    const { jobId } = await openJob(db, acting(), { tag: 'AC-1' });
    const steps = (await loadJob(db, jobId)).procedure?.steps.map((s) => s.key) ?? [];
    const answer = { jobId, step: steps[0] as string, outcome: 'done' as const, cursor: steps[1] as string };
    await saveAnswer(db, acting(1, 'answer-key-1'), answer);
    await saveAnswer(db, acting(1, 'answer-key-1'), answer);
    expect(await loadJob(db, jobId)).toMatchObject({
      cursor: steps[1],
      answers: [{ step: steps[0], outcome: 'done' }],
    });
    expect((await problemOf(saveAnswer(db, acting(), { ...answer, step: 'no.such' }))).type).toBe('unknown-step');
  });

  it('put away leaves the instrument as it was and takes no more answers', async () => {
    const { jobId } = await openJob(db, acting(), { tag: 'AC-1' });
    await cancelJob(db, acting(), { jobId, expectedVersion: 1 });
    expect((await page('AC-1')).openJob).toBeNull();
    expect((await problemOf(finishJob(db, acting(), request(jobId, await houseEntries(db, 'AC-1'))))).status).toBe(409);
    expect((await openJob(db, acting(), { tag: 'AC-1' })).jobId).not.toBe(jobId);
  });
});

it('a change done as usual takes what the steps would have taken, once, and only from those who work alone', async () => {
  const key = acting();
  const done = await doneAsUsual(db, key, { tag: 'ac-1', note: 'before the bus' });
  expect(await doneAsUsual(db, key, { tag: 'ac-1', note: 'before the bus' })).toEqual(done);
  expect(await shelf(db)).toEqual({ 'GAN-V-44 set': 1, 'KIT-F set': 1 });
  const after = await page('AC-1');
  expect(after.openJob).toBeNull();
  expect(after.history[0]).toMatchObject({ by: 'Ann Ex' });
  expect(after.visits.map((v) => v.kind)).toEqual(['retune', 'retune']);
  await undoFinish(db, acting(), { recordId: done.recordId, reason: 'another instrument' });
  expect((await page('AC-1')).due.by).toBe('unknown-age');
  // Taken back it is open at the bench again, and is finished there.
  expect(await problemOf(doneAsUsual(db, acting(), { tag: 'AC-1', note: '' }))).toMatchObject({ type: 'conflict' });
  await db('person').where({ id: 2 }).update({ role: 'helper' });
  expect(await problemOf(doneAsUsual(db, acting(2), { tag: 'VN-1', note: '' }))).toMatchObject({ type: 'not-alone' });
  expect(await db('job').where({ opened_by: 2 })).toEqual([]);
});

it('Today lists what is due here, what to pull and what is short; a visit is ticked off once', async () => {
  const at = { today: '2026-03-11', now: NOW + 864e5, horizon: '2026-04-01' };
  const { jobId } = await openJob(db, acting(), { tag: 'VN-1' });
  await finishJob(db, acting(), request(jobId, await houseEntries(db, 'VN-1')));
  const today = await todayAt(db, 1, at);
  expect(today.batches.map((b) => b.pieces.map((p) => p.tag).join())).toEqual(['AC-1,UK-1,UK-2']);
  expect(today.batches[0]?.way).toBe('look');
  expect(today.kit.find((k) => k.name === 'Kittock fluorocarbon, double length')).toMatchObject({
    quantity: 1,
    state: 'last',
  });
  expect(today.visits.map((v) => v.kind)).toEqual(['bridge-check', 'retune']);
  const visit = today.visits[0];
  if (!visit) throw new Error('no visit');
  await completeVisit(db, acting(2), { visitId: visit.id, expectedVersion: visit.version, note: '' });
  const error = await problemOf(
    completeVisit(db, acting(1), { visitId: visit.id, expectedVersion: visit.version, note: '' }),
  );
  expect(error.detail).toContain('Ben Wy');
});

it('a retune visit keeps what each string had fallen, and the ready time follows what was measured', async () => {
  const { jobId } = await openJob(db, acting(), { tag: 'UK-1' });
  await finishJob(db, acting(), request(jobId, await houseEntries(db, 'UK-1')));
  const at = (hours: number) => NOW + hours * 3_600_000;
  const seen = (hours: number) => instrumentPage(db, 'UK-1', { today: '2026-03-11', now: at(hours), programme });
  const before = await seen(20);
  expect(before.ready?.at).toBe(at(48));
  const visit = before.visits[0];
  if (!visit) throw new Error('no visit');
  const done = { visitId: visit.id, expectedVersion: visit.version, note: '' };
  const wrong = completeVisit(db, acting(1, undefined, at(20)), { ...done, readings: [{ number: 9, flatCents: 3 }] });
  expect((await problemOf(wrong)).type).toBe('no-string');
  // Hardly fallen: it settles sooner than such strings usually do. One that fell a lot decides.
  const readings = [
    { number: 1, flatCents: 4 },
    { number: 2, flatCents: 4 },
    { number: 3, flatCents: 4 },
    { number: 4, flatCents: 150 },
  ];
  await completeVisit(db, acting(1, undefined, at(20)), { ...done, readings });
  const after = await seen(21);
  expect(after.settling).toMatchObject({ number: 4, retunes: [{ flatCents: 150 }] });
  expect(after.ready?.at).toBeGreaterThan(at(49));
  const state = must(await db('instrument_state').where({ tag: 'UK-1' }).first());
  expect(state.ready_at).toBe(after.ready?.at);
});
