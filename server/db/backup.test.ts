import { readdirSync, readFileSync, rmSync, truncateSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import type { Knex } from 'knex';
import { afterEach, beforeEach, expect, it } from 'vitest';
import { acting, NOW, replayed, shelf, smallProgramme } from '../../tests/support/small';
import { doneAsUsual } from '../bench/asUsual';
import { recordPast } from '../bench/past';
import { keepFile } from '../photos/files';
import { receive } from '../stock/moves';
import { backUp, backupFolder, backups, restore, verifyBackup } from './backup';
import { openDatabase } from './connection';
import { lockFolder } from './opening';

let db: Knex;
let folder: string;
beforeEach(async () => {
  ({ db, folder } = await smallProgramme());
});
afterEach(() => db.destroy());

it('a backup taken while people work is of one moment, and what it restores is that, ledger and all', async () => {
  const hash = await keepFile(folder, Buffer.from('a picture'));
  await db('photo').insert({ instrument_id: 1, hash, step: '', person_id: 1, at: NOW, bytes: 9 });
  await doneAsUsual(db, acting(), { tag: 'AC-1', note: '' });
  let working = true;
  const work = (async () => {
    for (let n = 0; working; n++) {
      const id = (await db('product').where({ kind: 'set' }).first('id'))?.id as number;
      await receive(db, acting(), { productId: id, quantity: 1, placeId: 1, unitCostCents: 100 + n });
      await new Promise((go) => setImmediate(go));
    }
  })();
  const taken = await backUp(folder, { why: 'asked', now: NOW });
  working = false;
  await work;
  expect(taken.holds).toMatchObject({ instruments: 4, photos: [hash] });
  expect(readdirSync(backupFolder(folder)).sort()).toEqual(['arvick-2026-03-10T100000Z-asked.sqlite', 'photos']);

  const elsewhere = `${folder}-elsewhere`;
  expect(await restore(taken.file, elsewhere, NOW)).toMatchObject({ before: null, withoutPhotos: 0 });
  const there = await openDatabase(elsewhere);
  expect(await replayed(there)).toEqual(await shelf(there));
  expect(await there('change_record')).toHaveLength(1);
  // Every change that is in it is there with its audit and its key.
  const [moves] = await there('stock_move').where({ kind: 'receive' }).count({ n: '*' });
  const [told] = await there('audit').where({ action: 'stock.receive' }).count({ n: '*' });
  const [keys] = await there('idempotency').where({ action: 'stock.receive' }).count({ n: '*' });
  expect(told?.n).toBe(keys?.n);
  expect(Number(moves?.n)).toBeGreaterThanOrEqual(Number(told?.n));
  expect(readFileSync(join(elsewhere, 'photos', hash.slice(0, 2), `${hash}.jpg`), 'utf8')).toBe('a picture');
  await there.destroy();
  rmSync(elsewhere, { recursive: true });
});

it('what is restored is the backup, what was there is kept beside it; a folder that is served is left alone', async () => {
  const { file } = await backUp(folder, { why: 'asked', now: NOW });
  await recordPast(db, acting(), { tags: ['AC-1'], on: '2026-01-05', about: false, personId: null, note: 'after it' });
  await db.destroy();
  const unlock = lockFolder(folder);
  await expect(restore(file, folder, NOW)).rejects.toMatchObject({ reason: 'locked' });
  unlock();
  const { before } = await restore(file, folder, NOW);
  db = await openDatabase(folder);
  expect(await db('change_record')).toEqual([]);
  expect(verifyBackup(before as string).records).toBe(1);
});

it('what is not whole is no backup, and restores nothing', async () => {
  await recordPast(db, acting(), { tags: ['AC-1'], on: '2026-01-05', about: false, personId: null, note: '' });
  const { file, bytes } = await backUp(folder, { why: 'night', now: NOW });
  const good = readFileSync(file);
  truncateSync(file, Math.floor(bytes / 2));
  expect(() => verifyBackup(file)).toThrow(/damaged/);
  writeFileSync(file, 'no database at all, only words that somebody wrote into a file');
  expect(() => verifyBackup(file)).toThrow(/not a database/);
  await db.destroy();
  await expect(restore(file, folder, NOW)).rejects.toMatchObject({ reason: 'not-a-database' });
  db = await openDatabase(folder);
  expect(await db('change_record')).toHaveLength(1);
  writeFileSync(file, good);
  expect(verifyBackup(file).records).toBe(1);
});

it('so many are kept of each kind, the newest', async () => {
  const DAY = 86_400_000;
  for (let n = 0; n < 16; n++) await backUp(folder, { why: 'night', now: NOW + n * DAY });
  await backUp(folder, { why: 'before-update', now: NOW });
  const kept = await backups(folder);
  expect(kept.filter((b) => b.why === 'night')).toHaveLength(14);
  expect(kept[0]?.at).toBe(NOW + 15 * DAY);
  expect(kept.filter((b) => b.why === 'before-update')).toHaveLength(1);
});
