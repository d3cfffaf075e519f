import type { Knex } from 'knex';
import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import { newHouse } from '../../core/procedures/houseMethod';
import { stringNumbers } from '../../core/procedures/numbers';
import { acting, houseEntries, NOW, smallProgramme } from '../../tests/support/small';
import { finishJob } from '../bench/finish';
import { loadJob, openJob, previewJob } from '../bench/jobs';
import { finishLook } from '../bench/look';
import { must } from '../db/must';
import { UserError } from '../errors';
import { closeCase, factsOf, loadCase, openCases, recordFault, waitingCases } from '../faults/cases';
import { askToLook, sameAir } from '../faults/room';
import { addInstrument } from '../fleet/add';
import { correctBuild } from '../fleet/build';
import { setClimate, setPlayer } from '../fleet/exposure';
import { stringToFit } from '../fleet/fit';
import { loadInstrument, productOf } from '../fleet/instruments';

import { instrumentPage } from '../fleet/page';
import { giveHouseStrings } from '../stock/catalogue';
import { houseHistory, loadHouse, saveHouse } from './houseMethods';

let db: Knex;
let setIds: Map<string, number>;
beforeEach(async () => {
  ({ db, setIds } = await smallProgramme());
});
afterEach(() => db.destroy());

const programme = { name: 'Small', timeZone: 'UTC', a4Hz: 440, isDemo: false };
const page = (tag: string) => instrumentPage(db, tag, { today: '2026-03-10', now: NOW, programme });
const problemOf = (promise: Promise<unknown>) =>
  promise.then(
    () => expect.fail('it went through'),
    (error: unknown) => (error instanceof UserError ? error : Promise.reject(error)),
  );
const procedureOf = async (tag: string) => {
  const { composed } = await previewJob(db, await loadInstrument(db, { tag }));
  if (!('procedure' in composed)) throw new Error(composed.gaps.map((g) => g.needs).join());
  return composed.procedure;
};
const selfLock = () => {
  const house = newHouse('steel-acoustic');
  return { ...house, method: { ...house.method, winds: 'self-lock' as const } };
};

describe('house methods', () => {
  it('are kept in versions; open jobs keep theirs, and the next removal knows how it was wound', async () => {
    const before = await openJob(db, acting(), { tag: 'AC-1' });
    const saved = await saveHouse(db, acting(), {
      family: 'steel-acoustic',
      expectedVersion: 1,
      house: selfLock(),
      why: 'slips',
    });
    expect(saved.version).toBe(2);
    expect((await loadJob(db, before.jobId)).procedure?.method.winds).toBe('one-over');
    expect((await procedureOf('AC-1')).method.winds).toBe('self-lock');
    expect((await houseHistory(db, 'steel-acoustic')).map((h) => [h.version, h.by, h.why])).toEqual([
      [2, 'Ann Ex', 'slips'],
      [1, null, ''],
    ]);
    const request = { expectedVersion: 1, discard: [], notes: '', minutes: null };
    await finishJob(db, acting(), { ...request, jobId: before.jobId, entries: await houseEntries(db, 'AC-1') });
    expect((await procedureOf('AC-1')).tools).not.toContain('long-nose pliers');
    const locked = await openJob(db, acting(), { tag: 'AC-1' });
    const entries = (await houseEntries(db, 'AC-1')).map((e) => ({ ...e, found: true }));
    await finishJob(db, acting(), { ...request, jobId: locked.jobId, entries });
    // Now the ends are locked under themselves, and the next removal says so.
    expect((await procedureOf('AC-1')).tools).toContain('long-nose pliers');
  });

  it('refuse a stale save with both versions, one that changes nothing, and one that is not safe', async () => {
    const save = (family: 'violin' | 'steel-acoustic', house: ReturnType<typeof newHouse>, expectedVersion = 1) =>
      saveHouse(db, acting(2), { family, expectedVersion, house, why: '' });
    await saveHouse(db, acting(), { family: 'steel-acoustic', expectedVersion: 1, house: selfLock(), why: '' });
    const stale = await problemOf(
      save('steel-acoustic', { ...selfLock(), wording: { 'tune.all': { title: 'Tune.' } } }),
    );
    expect([stale.status, stale.detail]).toEqual([409, expect.stringContaining('Ann Ex saved version 2')]);
    expect(stale.extra.current).toMatchObject({ method: { winds: 'self-lock' } });
    expect((await problemOf(save('violin', newHouse('violin')))).type).toBe('no-change');
    const house = newHouse('violin');
    const unsafe = await problemOf(save('violin', { ...house, method: { ...house.method, atATime: 2 } }));
    expect(unsafe.detail).toContain('Change one string at a time');
    expect((await loadHouse(db, 'violin')).version).toBe(1);
  });

  it('may be departed from once, with a reason the job keeps', async () => {
    const departure = { method: { stretchRounds: 0 }, reason: '' };
    expect((await problemOf(openJob(db, acting(), { tag: 'AC-1', departure }))).type).toBe('no-reason');
    const { jobId } = await openJob(db, acting(), {
      tag: 'AC-1',
      departure: { ...departure, reason: 'for a recording' },
    });
    expect((await loadJob(db, jobId)).departure).toMatchObject({
      differs: ['the rounds of stretching'],
      reason: 'for a recording',
    });
  });
});

describe('jobs of other kinds', () => {
  it('off and on again keeps the strings and their age, and still sets visits', async () => {
    const full = await openJob(db, acting(), { tag: 'AC-1' });
    const request = { expectedVersion: 1, discard: [], notes: '', minutes: null };
    await finishJob(db, acting(), { ...request, jobId: full.jobId, entries: await houseEntries(db, 'AC-1') });
    const later = NOW + 20 * 864e5;
    const { jobId } = await openJob(db, acting(1, undefined, later), { tag: 'AC-1', kind: 'refit' });
    const kept = (await houseEntries(db, 'AC-1')).map((e) => ({ ...e, action: 'kept' as const }));
    const done = await finishJob(db, acting(1, undefined, later), { ...request, jobId, entries: kept });
    expect(done.visits).toHaveLength(2);
    const after = await page('AC-1');
    expect(after.history[0]?.summary).toBe('same strings, off and back on');
    expect(after.positions.every((p) => p.since === '2026-03-10')).toBe(true);
  });

  it('one string asks which, and works on that one', async () => {
    expect((await problemOf(openJob(db, acting(), { tag: 'AC-1', kind: 'one-string' }))).type).toBe('which-string');
    expect((await problemOf(openJob(db, acting(), { tag: 'AC-1', numbers: [9] }))).type).toBe('no-string');
    const { jobId } = await openJob(db, acting(), { tag: 'AC-1', numbers: [2] });
    const job = await loadJob(db, jobId);
    expect([job.kind, job.numbers]).toEqual(['one-string', [2]]);
  });

  it('a first look gives a condition and a date; what is referred stays open until it is back', async () => {
    const look = await openJob(db, acting(), { tag: 'VN-1', kind: 'inspection' });
    const base = { expectedVersion: 1, referredTo: '', notes: '', minutes: 3 };
    const none = finishLook(db, acting(), { ...base, jobId: look.jobId, outcome: 'done', inspection: null });
    expect((await problemOf(none)).type).toBe('answers');
    const inspection = { sound: 1, look: 1, feel: 0, tune: 1, winding: 0 } as const;
    await finishLook(db, acting(), { ...base, jobId: look.jobId, outcome: 'done', inspection });
    expect((await page('VN-1')).due).toMatchObject({ by: 'condition', on: '2026-03-24' });
    const slack = await openJob(db, acting(), { tag: 'VN-1', kind: 'emergency' });
    const entries = await houseEntries(db, 'VN-1');
    const asChange = finishJob(db, acting(), {
      jobId: slack.jobId,
      expectedVersion: 1,
      entries,
      discard: [],
      notes: '',
      minutes: null,
    });
    expect((await problemOf(asChange)).type).toBe('no-change');
    const stopped = {
      ...base,
      jobId: slack.jobId,
      outcome: 'referred' as const,
      referredTo: 'a luthier',
      inspection: null,
    };
    const { caseId } = await finishLook(db, acting(1, 'referral-key'), stopped);
    expect(await finishLook(db, acting(1, 'referral-key'), stopped)).toMatchObject({ caseId });
    const [open] = (await page('VN-1')).cases;
    expect(open?.next).toMatchObject({ kind: 'referral', to: 'a luthier' });
    const back = { caseId: caseId as number, expectedVersion: 1, checkedBy: 'Ola Brand, luthier', found: 'post set' };
    expect((await problemOf(closeCase(db, acting(), { ...back, checkedBy: '' }))).type).toBe('nobody-looked');
    await closeCase(db, acting(), back);
    expect(await loadCase(db, back.caseId)).toMatchObject({ status: 'closed', checkedBy: back.checkedBy });
    expect((await problemOf(closeCase(db, acting(2), back))).status).toBe(409);
    expect((await page('VN-1')).cases).toEqual([]);
  });

  it('found slack and brought back: it waits for a luthier, and asks for a look at what stood in the same air', async () => {
    for (const tag of ['VN-7', 'VN-8'])
      await addInstrument(db, acting(), {
        tag,
        family: 'violin',
        size: '4/4',
        placeId: 1,
        holder: '',
        houseSetId: null,
        use: [],
        note: '',
      });
    const { jobId } = await openJob(db, acting(), { tag: 'VN-1', kind: 'emergency' });
    const { caseId } = await finishLook(db, acting(), {
      jobId,
      expectedVersion: 1,
      outcome: 'done',
      referredTo: '',
      inspection: null,
      notes: '',
      minutes: null,
    });
    const [waits] = await waitingCases(db, 1, 10);
    expect(waits).toMatchObject({ id: caseId, tag: 'VN-1', to: 'a luthier' });
    // Only wooden pegs: not the guitar, not the ukuleles.
    expect((await sameAir(db, 'vn-1')).map((n) => n.tag)).toEqual(['VN-7', 'VN-8']);
    const once = acting();
    const ask = { caseId: caseId as number, tags: ['VN-7', 'VN-8'] };
    expect(await askToLook(db, once, ask)).toEqual({ asked: 2 });
    expect(await askToLook(db, once, ask)).toEqual({ asked: 2 });
    expect(await askToLook(db, acting(), ask)).toEqual({ asked: 0 });
    expect(await db('plan_request').where({ kind: 'inspection' })).toHaveLength(2);
    expect((await sameAir(db, 'VN-1')).every((n) => n.askedFor !== null)).toBe(true);
  });
});

describe('the fault desk', () => {
  it('knows what is on record: hours on, last method, how often it happened', async () => {
    const { jobId } = await openJob(db, acting(), { tag: 'UK-1' });
    await finishJob(db, acting(), {
      jobId,
      expectedVersion: 1,
      entries: await houseEntries(db, 'UK-1'),
      discard: [],
      notes: '',
      minutes: null,
    });
    const at = { now: NOW + 20 * 3_600_000, today: '2026-03-11' };
    const facts = await factsOf(db, await loadInstrument(db, { tag: 'UK-1' }), 1, at);
    expect(facts).toMatchObject({ lastMethod: { winds: 'spiral-down', atATime: 1 }, dryRoom: null });
    expect(facts.strings.find((s) => s.number === 1)?.hoursOn).toBeCloseTo(20, 6);
    expect(facts.turns).toBeGreaterThan(1);
  });

  it('sets a visit, opens a job or refers, once for each press, and refuses a cause that is not one', async () => {
    const request = { tag: 'VN-1', symptom: 'bridge-leans', number: null, cause: 'dragged', note: '' };
    const first = await recordFault(db, acting(1, 'fault-key-1'), request);
    expect(await recordFault(db, acting(1, 'fault-key-1'), request)).toEqual(first);
    expect(await db('follow_up').where({ kind: 'bridge-check' })).toHaveLength(1);
    const job = await recordFault(db, acting(), { ...request, symptom: 'one-out', number: 4, cause: 'winding-loose' });
    expect((await loadJob(db, job.jobId as number)).numbers).toEqual([4]);
    await recordFault(db, acting(), { ...request, cause: 'warped' });
    expect((await openCases(db, (await loadInstrument(db, { tag: 'VN-1' })).id)).map((c) => c.next.kind)).toEqual([
      'referral',
    ]);
    expect((await problemOf(recordFault(db, acting(), { ...request, cause: 'gremlins' }))).type).toBe('no-cause');
    expect((await problemOf(recordFault(db, acting(), { ...request, symptom: 'pin-rises' }))).type).toBe('no-symptom');
  });
});

describe('a build', () => {
  it('is corrected with its reasons, and a stale correction is refused', async () => {
    const { build } = await loadInstrument(db, { tag: 'AC-1' });
    const correct = (change: Partial<typeof build>, expectedVersion = 1) =>
      correctBuild(db, acting(), { tag: 'AC-1', expectedVersion, build: { ...build, ...change } });
    expect((await problemOf(correct({ tuner: 'tapered-peg' }))).detail).toContain('tapered wooden pegs');
    await correct({ head: 'in-line', handedness: 'left' });
    const after = await loadInstrument(db, { tag: 'AC-1' });
    expect(after.positions.every((p) => p.side === 'bass')).toBe(true);
    expect((await problemOf(correct({ scaleMm: 650 }))).status).toBe(409);
    expect((await procedureOf('AC-1')).steps.length).toBeGreaterThan(30);
  });

  it('gets the set that suits it when none is chosen, and is refused when it cannot be', async () => {
    const add = (tag: string, build?: Parameters<typeof addInstrument>[2]['build']) =>
      addInstrument(db, acting(), {
        tag,
        family: 'steel-acoustic',
        size: '1/2',
        placeId: 1,
        holder: '',
        houseSetId: 'suggest',
        use: [],
        note: '',
        ...(build ? { build } : {}),
      });
    await add('AC-9');
    const { houseSetId } = await loadInstrument(db, { tag: 'AC-9' });
    expect([setIds.get('FUL-1047'), setIds.get('FUL-1253')]).toContain(houseSetId);
    expect((await problemOf(add('AC-8', { tailEnd: 'uke-slot' }))).type).toBe('impossible-build');
  });

  it('falls due sooner in sea air and under hard hands', async () => {
    const { jobId } = await openJob(db, acting(), { tag: 'AC-1' });
    await finishJob(db, acting(), {
      jobId,
      expectedVersion: 1,
      entries: await houseEntries(db, 'AC-1'),
      discard: [],
      notes: '',
      minutes: null,
    });
    const usual = (await page('AC-1')).due.on;
    await setPlayer(db, acting(), { tag: 'AC-1', player: 'hard' });
    const hard = (await page('AC-1')).due.on;
    await setClimate(db, acting(), { placeId: 1, climate: 'sea-air' });
    expect((await page('AC-1')).due.on < hard && hard <= usual).toBe(true);
  });
});

it('whether half a string does has one answer, for the shelf, the card, what is set aside and the record, after any change', async () => {
  const { id } = must(await db('instrument').where({ tag: 'UK-1' }).first());
  const double = must(await db('product').where({ double_length: true, kind: 'single' }).first());
  await db('instrument_position').where({ instrument_id: id, number: 1 }).update({ house_product_id: double.id });
  const stored = async (): Promise<boolean> =>
    Boolean((await db('instrument_position').where({ instrument_id: id, number: 1 }).first())?.house_half);
  const { house, version } = await loadHouse(db, 'ukulele');
  const way = (slackMm: number) => ({
    ...house,
    method: { ...house.method, slack: { kind: 'length' as const, mm: slackMm } },
  });
  const save = (expectedVersion: number, slackMm: number) =>
    saveHouse(db, acting(), { family: 'ukulele', expectedVersion, house: way(slackMm), why: 'tried' });
  // Long enough for one way of winding, too short for the other.
  const instrument = await loadInstrument(db, { tag: 'UK-1' });
  const needs = (slackMm: number): number => {
    const [position] = instrument.build.positions.filter((p) => p.number === 1);
    const string = stringToFit({ number: 1 }, productOf(double), true);
    return stringNumbers(instrument.build, way(slackMm).method, position as never, string, 440).neededLengthMm;
  };
  await db('product')
    .where({ id: double.id })
    .update({ length_mm: needs(25) + needs(45) });
  expect(needs(45)).toBeGreaterThan(needs(25));
  expect(await save(version, 25)).toEqual({ version: version + 1 });
  expect(await stored()).toBe(true);
  await save(version + 1, 45);
  expect(await stored()).toBe(false);
  // One job as the house does it, another way for this one job: its card, its kit and its record say the same.
  const { jobId } = await openJob(db, acting(), {
    tag: 'UK-1',
    departure: { method: { slack: { kind: 'length', mm: 25 } }, reason: 'short of strings' },
  });
  const job = must(await db('job').where({ id: jobId }).first());
  expect(JSON.parse(job.halves)).toContain(1);
  await save(version + 2, 44);
  const entries = (await houseEntries(db, 'UK-1')).map((e) => ({ ...e, found: true }));
  await finishJob(db, acting(), { jobId, expectedVersion: 1, entries, discard: [], notes: '', minutes: 9 });
  expect(Boolean((await db('string_entry').where({ instrument_id: id, number: 1 }).first())?.half)).toBe(true);
  // The set given anew, and a build looked at again, ask again.
  await save(version + 3, 25);
  const now = await loadInstrument(db, { tag: 'UK-1' });
  const productId = setIds.get('KIT-F') as number;
  await giveHouseStrings(db, acting(), { tag: 'UK-1', productId, expectedVersion: now.version });
  const halves = (await loadInstrument(db, { tag: 'UK-1' })).positions.map((p) => p.houseHalf);
  expect(halves).toEqual((await loadInstrument(db, { tag: 'UK-2' })).positions.map((p) => p.houseHalf));
  expect(halves).toContain(true);
});
