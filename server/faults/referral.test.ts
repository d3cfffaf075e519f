import type { Knex } from 'knex';
import { afterEach, beforeEach, expect, it } from 'vitest';
import { LEVEL } from '../../core/planning/ladder';
import { acting, houseEntries, NOW, smallProgramme } from '../../tests/support/small';
import { doneAsUsual } from '../bench/asUsual';
import { openBatch } from '../bench/batch';
import { finishJob } from '../bench/finish';
import { loadJob, openJob } from '../bench/jobs';
import { must } from '../db/must';
import { UserError } from '../errors';
import { setSignOff } from '../plan/signOffs';
import { addPerson } from '../programme/manage';
import { completeVisit, dueTags } from '../today/today';
import { workAhead } from '../work/ahead';
import { closeCase, openCase } from './cases';

let db: Knex;
beforeEach(async () => {
  ({ db } = await smallProgramme());
});
afterEach(() => db.destroy());

const outcome = (p: Promise<unknown>) =>
  p.then(
    () => 'done',
    (e) => (e instanceof UserError ? `${e.type}: ${e.detail}` : Promise.reject(e)),
  );

async function refer(tag: string): Promise<number> {
  const { id } = must(await db('instrument').where({ tag }).first());
  return openCase(db, acting(), {
    instrumentId: id,
    on: '2026-03-10',
    symptom: 'buzz',
    number: null,
    named: { of: 'cause', id: 'soundpost' } as never,
    next: { kind: 'referral', to: 'a luthier', why: '', topic: 'soundpost' },
    note: '',
    jobId: null,
  });
}

it('an open referral stands in front of every way to work on the instrument, and says what it forbids', async () => {
  const caseId = await refer('VN-1');
  const ways: Record<string, () => Promise<unknown>> = {
    bench: () => openJob(db, acting(2), { tag: 'VN-1' }),
    look: () => openJob(db, acting(2), { tag: 'VN-1', kind: 'inspection' }),
    batch: () => openBatch(db, acting(2), { tags: ['VN-1', 'UK-1'] }),
    'as usual': () => doneAsUsual(db, acting(2), { tag: 'VN-1', note: '' }),
  };
  const { id } = must(await db('instrument').where({ tag: 'VN-1' }).first());
  const [visit] = await db('follow_up')
    .insert({
      instrument_id: id,
      kind: 'retune',
      day: 1,
      due_at: NOW,
      due_on: '2026-03-10',
      status: 'open',
      version: 1,
    })
    .returning('id');
  ways['follow-up'] = () => completeVisit(db, acting(2), { visitId: visit?.id ?? -1, expectedVersion: 1, note: '' });
  for (const [way, run] of Object.entries(ways))
    expect([way, await outcome(run())]).toEqual([way, expect.stringMatching(/^referred: .*No tension on any string/)]);
  expect(await db('job').count({ n: '*' }).first()).toEqual({ n: 0 });

  // It is nobody's work: neither planned nor due today, however long it is due.
  const at = { today: '2027-03-10', horizon: '2027-03-20' };
  expect(await dueTags(db, 1, at)).toEqual(expect.not.arrayContaining(['VN-1']));
  const ahead = await workAhead(db, { first: at.today, until: at.horizon });
  expect(ahead.map((w) => w.instrument.tag)).toEqual(expect.not.arrayContaining(['VN-1']));

  // A helper gives no reason in its place; a technician's is kept in the record.
  const { personId: helper } = await addPerson(db, acting(), {
    name: 'Cam Zed',
    initials: 'CZ',
    role: 'helper',
    placeId: 1,
  });
  await setSignOff(db, acting(), { personId: helper, family: 'violin', level: LEVEL.alone });
  const despite = 'the luthier asked for a new E';
  expect(await outcome(openJob(db, acting(helper), { tag: 'VN-1', despite }))).toMatch(/^referred/);
  const { jobId } = await openJob(db, acting(2), { tag: 'VN-1', despite });
  const { version } = await loadJob(db, jobId);
  await finishJob(db, acting(2), {
    jobId,
    expectedVersion: version,
    entries: await houseEntries(db, 'VN-1'),
    discard: [],
    notes: 'settled well',
    minutes: 30,
  });
  expect((await db('change_record').where({ job_id: jobId }).first())?.notes).toBe(
    `Went ahead despite an open referral: ${despite}. settled well`,
  );

  // Closed by whoever may, it stands in front of nothing.
  await closeCase(db, acting(2), { caseId, expectedVersion: 1, checkedBy: 'Dee Why', found: 'post set anew' } as never);
  expect(await outcome(openJob(db, acting(2, 'again', NOW + 864e5), { tag: 'VN-1' }))).toBe('done');
});
