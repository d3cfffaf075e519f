import type { Knex } from 'knex';
import { afterEach, beforeEach, expect, it } from 'vitest';
import { CHANGES, type ChangeName, mayChange } from '../../contract/permissions';
import { LEVEL } from '../../core/planning/ladder';
import { outcomeOf } from '../../tests/support/outcome';
import { acting, houseEntries, NOW, smallProgramme } from '../../tests/support/small';
import { must } from '../db/must';
import { setSignOff } from '../plan/signOffs';
import { addPerson } from '../programme/manage';
import { completeVisit } from '../today/today';
import { doneAsUsual } from './asUsual';
import { openBatch } from './batch';
import { departJob } from './depart';
import { finishJob } from './finish';
import { cancelJob, loadJob, openJob, saveAnswer } from './jobs';
import { finishLook } from './look';

let db: Knex;
let helper: number;
beforeEach(async () => {
  ({ db } = await smallProgramme());
  ({ personId: helper } = await addPerson(db, acting(), {
    name: 'Cam Zed',
    initials: 'CZ',
    role: 'helper',
    placeId: 1,
  }));
});
afterEach(() => db.destroy());

/** What a helper may do by their role to the work on an instrument: each asks whether they may work on its family. */
async function changesOf(jobId: number, tag: string): Promise<Partial<Record<ChangeName, () => Promise<unknown>>>> {
  const by = () => acting(helper);
  const job = await loadJob(db, jobId);
  const expectedVersion = job.version;
  const step = must(job.procedure?.steps[0]).key;
  const [visitId] = await db('follow_up')
    .insert({
      instrument_id: job.instrumentId,
      kind: 'retune',
      due_at: NOW,
      due_on: '2026-03-10',
      status: 'open',
      version: 1,
      day: 1,
    })
    .returning('id')
    .then((rows) => rows.map((r) => r.id as number));
  return {
    'job.open': () => openJob(db, by(), { tag }),
    'batch.open': () => openBatch(db, by(), { tags: [tag, 'UK-1'] }),
    'job.as-usual': () => doneAsUsual(db, by(), { tag, note: '' }),
    'job.answer': () => saveAnswer(db, by(), { jobId, step, cursor: step, outcome: 'done' }),
    'job.depart': () => departJob(db, by(), { jobId, expectedVersion, method: { washer: true } as never, reason: 'x' }),
    'job.finish': async () =>
      finishJob(db, by(), {
        jobId,
        expectedVersion,
        entries: await houseEntries(db, tag),
        discard: [],
        notes: '',
        minutes: 5,
      }),
    'job.look': () =>
      finishLook(db, by(), { jobId, expectedVersion, outcome: 'referred', referredTo: 'the shop', notes: '' } as never),
    'job.cancel': () => cancelJob(db, by(), { jobId, expectedVersion }),
    'visit.done': () => completeVisit(db, by(), { visitId: must(visitId), expectedVersion: 1, note: '' }),
  };
}

it('who is not signed off for a family changes nothing of somebody else’s open work on it', async () => {
  const { jobId } = await openJob(db, acting(2), { tag: 'VN-1' });
  const changes = await changesOf(jobId, 'VN-1');
  // Every change of work that a helper's role allows is in the list: a new one is added here, or asks nothing.
  const ofWork = (Object.keys(CHANGES) as ChangeName[]).filter(
    (name) => /^(job|batch|visit)\./.test(name) && mayChange('helper', name) !== null,
  );
  expect(Object.keys(changes).sort()).toEqual(ofWork.sort());
  for (const name of ofWork) {
    const told = await outcomeOf(must(changes[name])());
    expect(told, name).toBe(name === 'job.as-usual' ? 'not-alone' : 'not-signed-off');
  }
  const kept = await loadJob(db, jobId);
  expect([kept.status, kept.version, kept.answers, kept.departure]).toEqual(['open', 1, [], null]);

  // Under supervision they may.
  await setSignOff(db, acting(), { personId: helper, family: 'violin', level: LEVEL.supervised });
  expect(await outcomeOf(must(changes['job.answer'])())).toBe('done');
  expect(await outcomeOf(must(changes['visit.done'])())).toBe('done');
  expect(await outcomeOf(must(changes['job.finish'])())).toBe('done');
});
