import { expect, it } from 'vitest';
import { fleetQueryOf } from '../../contract/fleet';
import { acting, NOW, smallProgramme } from '../../tests/support/small';
import { openJob } from '../bench/jobs';
import { recordPast } from '../bench/past';
import { workAhead } from '../work/ahead';
import { changesOf } from './changes';
import { listFleet } from './list';
import { changeMany, undoMany } from './many';
import { gonePage } from './page';

const at = { today: '2026-03-10', now: NOW, horizon: '2027-03-10' };

it('changes several instruments at once or none, and undoes all of it until one was changed since', async () => {
  const { db } = await smallProgramme();
  const rows = () => db('instrument').orderBy('id').select('tag', 'holder', 'place_id', 'house_set_id', 'retired_on');
  const before = await rows();
  await expect(changeMany(db, acting(), { tags: ['UK-1', 'UK-9'], holder: 'Class 3' })).rejects.toThrow(
    'UK-9. Nothing',
  );
  const violins = (await db('product').where({ kind: 'set', family: 'violin' }).first())?.id as number;
  await expect(changeMany(db, acting(), { tags: ['VN-1', 'UK-1'], houseSetId: violins })).rejects.toThrow(
    /another kind/,
  );
  expect(await rows()).toEqual(before);
  const key = acting();
  const done = await changeMany(db, key, { tags: ['uk-1', 'UK-2'], holder: 'Class 3' });
  expect(await changeMany(db, key, { tags: ['uk-1', 'UK-2'], holder: 'Class 3' })).toEqual(done);
  expect(done.says).toBe('2 instruments with Class 3');
  // Each of them tells of it, not only the first.
  for (const tag of ['UK-1', 'UK-2']) {
    const id = (await db('instrument').where({ tag }).first())?.id as number;
    expect((await changesOf(db, id, 'UTC'))[0]?.says).toBe('changed together with others');
  }
  expect((await rows()).filter((r) => r.holder === 'Class 3')).toHaveLength(2);
  const undo = acting();
  await undoMany(db, undo, { undo: done.undo });
  await undoMany(db, undo, { undo: done.undo });
  expect(await rows()).toEqual(before);
  const again = await changeMany(db, acting(), { tags: ['UK-1', 'UK-2'], holder: 'Class 4' });
  await changeMany(db, acting(), { tags: ['UK-2'], holder: 'Class 5' });
  await expect(undoMany(db, acting(), { undo: again.undo })).rejects.toThrow('UK-2. Nothing was undone');
});

it('what is retired is neither listed, due, planned nor worked on, keeps its history, and comes back as it was', async () => {
  const { db } = await smallProgramme();
  const states = () => db('instrument_state').orderBy('instrument_id').select('tag', 'due_on', 'due_by', 'changed_on');
  const before = await states();
  const open = await openJob(db, acting(), { tag: 'UK-1' });
  await expect(changeMany(db, acting(), { tags: ['UK-1'], retire: 'sold' })).rejects.toThrow(/Finish or close/);
  await db('job').where({ id: open.jobId }).update({ status: 'cancelled' });
  const done = await changeMany(db, acting(), { tags: ['UK-1'], retire: 'sold' });
  expect((await listFleet(db, fleetQueryOf(new URLSearchParams()), at)).rows.map((r) => r.tag)).not.toContain('UK-1');
  const ahead = await workAhead(db, { first: at.today, until: '2027-03-10' });
  expect(ahead.map((w) => w.instrument.tag)).toContain('UK-2');
  expect(ahead.map((w) => w.instrument.tag)).not.toContain('UK-1');
  await expect(openJob(db, acting(), { tag: 'UK-1' })).rejects.toThrow(/Bring it back/);
  expect(await gonePage(db, 'uk-1')).toMatchObject({ tag: 'UK-1', why: 'sold', on: '2026-03-10' });
  await undoMany(db, acting(), { undo: done.undo });
  expect(await gonePage(db, 'UK-1')).toBeNull();
  expect(await states()).toEqual(before);
});

it('lends, asks for work and sets an interval of several, and one undo takes each back', async () => {
  const { db } = await smallProgramme();
  const due = () => db('instrument_state').orderBy('instrument_id').select('tag', 'due_on', 'due_by');
  await recordPast(db, acting(), { tags: ['UK-1', 'UK-2'], on: '2026-03-01', about: false, personId: null, note: '' });
  const before = await due();
  const tags = ['UK-1', 'UK-2'];
  const lend = { from: '2026-03-12', to: '2026-03-20', why: 'Class 3' };
  const request = { kind: 'inspection' as const, dueOn: '2026-03-20', why: 'after the move' };
  const loan = await changeMany(db, acting(), { tags, lend });
  expect(await db('instrument_busy').pluck('why')).toEqual(['Class 3', 'Class 3']);
  await expect(changeMany(db, acting(), { tags: ['UK-2', 'VN-1'], lend })).rejects.toThrow('UK-2. Nothing');
  const asked = await changeMany(db, acting(), { tags: ['UK-1'], request });
  expect((await changeMany(db, acting(), { tags, request })).says).toBe(
    '2 instruments with work requested, for 1 of them before',
  );
  await expect(changeMany(db, acting(), { tags, request })).rejects.toThrow(/for all of them/);
  await expect(undoMany(db, acting(), { undo: asked.undo })).rejects.toThrow('UK-1. Nothing was undone');

  const shorter = await changeMany(db, acting(), { tags, interval: { days: 30, why: 'played hard' } });
  expect((await due()).filter((d) => d.due_on === '2026-03-31').map((d) => d.tag)).toEqual(tags);
  const back = await changeMany(db, acting(), { tags, interval: { days: null, why: 'back to usual' } });
  expect(await due()).toEqual(before);
  await undoMany(db, acting(), { undo: back.undo });
  expect((await due()).filter((d) => d.due_on === '2026-03-31')).toHaveLength(2);
  await expect(undoMany(db, acting(), { undo: shorter.undo })).rejects.toThrow(/Nothing was undone/);
  await expect(undoMany(db, acting(), { undo: loan.undo })).rejects.toThrow(/Nothing was undone/);

  const once = await changeMany(db, acting(), {
    tags: ['AC-1'],
    lend,
    interval: { days: 20, why: 'on tour' },
    request,
  });
  await undoMany(db, acting(), { undo: once.undo });
  expect(await db('instrument_busy').pluck('why')).toHaveLength(2);
  expect(await db('plan_request').where({ status: 'withdrawn' })).toHaveLength(1);
  expect((await due()).find((d) => d.tag === 'AC-1')).toEqual(before.find((d) => d.tag === 'AC-1'));
});
