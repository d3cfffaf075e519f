import { join } from 'node:path';
import Database from 'better-sqlite3';
import type { Knex } from 'knex';
import { afterEach, beforeEach, expect, it } from 'vitest';
import { acting, smallProgramme } from '../../tests/support/small';
import { change } from './change';

let db: Knex;
let folder: string;
beforeEach(async () => {
  ({ db, folder } = await smallProgramme());
});
afterEach(() => db.destroy());

const rename = (key: string, name: string, fails = false) =>
  change(db, acting(1, key), 'place.edit', { name }, async (trx) => {
    await trx('place').where({ id: 1 }).update({ name });
    if (fails) throw new Error('on the way');
    return { result: { name }, entity: 'place', entityId: 1 };
  });

it('does a thing once for a key, with one audit entry, and answers the same again', async () => {
  const answers = await Promise.all([
    rename('key-number-1', 'A'),
    rename('key-number-1', 'A'),
    rename('key-number-1', 'A'),
  ]);
  expect(answers).toEqual([{ name: 'A' }, { name: 'A' }, { name: 'A' }]);
  expect(await db('audit').where({ action: 'place.edit' })).toHaveLength(1);
});

it('leaves nothing of a change that fails, so that the same key may try again', async () => {
  await expect(rename('key-number-2', 'B', true)).rejects.toThrow('on the way');
  expect(await db('place').where({ id: 1 }).first()).toMatchObject({ name: 'Workshop' });
  expect(await db('idempotency').where({ key: 'key-number-2' })).toEqual([]);
  expect(await db('audit').where({ action: 'place.edit' })).toEqual([]);
  await rename('key-number-2', 'B');
  expect(await db('place').where({ id: 1 }).first()).toMatchObject({ name: 'B' });
});

it('waits while another process writes, and does nothing of a change before it may write', async () => {
  const other = new Database(join(folder, 'arvick.sqlite'));
  other.exec('begin immediate');
  let worked = 0;
  const waiting = change(db, acting(1, 'key-number-3'), 'place.edit', {}, async (trx) => {
    worked += 1;
    await trx('place').where({ id: 1 }).update({ name: 'C' });
    return { result: null, entity: 'place', entityId: 1 };
  });
  await new Promise((done) => setTimeout(done, 400));
  expect(worked).toBe(0);
  // Whoever reads is not kept waiting.
  expect(await db('place').first()).toMatchObject({ name: 'Workshop' });
  other.exec('rollback');
  await waiting;
  expect(worked).toBe(1);
  expect(await db('place').first()).toMatchObject({ name: 'C' });
  other.close();
});
