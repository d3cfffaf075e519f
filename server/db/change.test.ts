import { join } from 'node:path';
import Database from 'better-sqlite3';
import type { Knex } from 'knex';
import { afterEach, beforeEach, expect, it } from 'vitest';
import { ROLES } from '../../contract/people';
import { CHANGES, type ChangeName, mayChange } from '../../contract/permissions';
import { acting, NOW, smallProgramme } from '../../tests/support/small';
import { addAvailability, removeAvailability, setAway } from '../plan/availability';
import { change, insertId } from './change';

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

it('does what the table gives to a role, and nothing else; whoever has left does nothing', async () => {
  const { db } = await smallProgramme();
  const by = new Map<string, number>();
  for (const role of ROLES)
    by.set(role, await insertId(db, 'person', { name: `The ${role}`, initials: role.slice(0, 2), role, place_id: 1 }));
  const nothing = () => Promise.resolve({ result: 'done', entity: 'none', entityId: 0 });
  let n = 0;
  for (const name of Object.keys(CHANGES) as ChangeName[])
    for (const role of ROLES) {
      n += 1;
      const as = { personId: by.get(role) as number, now: NOW, key: `walk-${n}-of-all` };
      const done = await change(db, as, name, {}, nothing).catch((e) => e.type);
      expect([name, role, done]).toEqual([name, role, mayChange(role, name) ? 'done' : 'not-yours']);
    }
  await db('person')
    .where({ id: by.get('coordinator') as number })
    .update({ retired_on: '2026-01-01' });
  const gone = { personId: by.get('coordinator') as number, now: NOW, key: 'walk-gone' };
  expect(await change(db, gone, 'person.desk', {}, nothing).catch((e) => e.type)).toBe('not-here');
  await db.destroy();
});

it('technicians enter their own hours and nobody else’s', async () => {
  const { db } = await smallProgramme();
  const hours = { placeId: 1, weekday: 3, minutes: 60, starts: '09:00' };
  const typeOf = (p: Promise<unknown>) => p.then(() => 'done').catch((e) => e.type);
  expect(await typeOf(addAvailability(db, acting(2), { ...hours, personId: 1 }))).toBe('not-yours');
  expect(await typeOf(addAvailability(db, acting(2), { ...hours, personId: 2 }))).toBe('done');
  expect(await typeOf(addAvailability(db, acting(1), { ...hours, personId: 1 }))).toBe('done');
  const ids: number[] = await db('availability').orderBy('person_id').pluck('id');
  expect(await typeOf(removeAvailability(db, acting(2), { id: ids[0] as number }))).toBe('not-yours');
  expect(await typeOf(removeAvailability(db, acting(1), { id: ids[1] as number }))).toBe('done');
  expect(await typeOf(setAway(db, acting(2), { personId: 1, on: '2026-03-12', why: 'ill' }))).toBe('not-yours');
  await db.destroy();
});
