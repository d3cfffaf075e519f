import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import Sqlite from 'better-sqlite3';
import fc from 'fast-check';
import { afterAll, beforeAll, expect, it } from 'vitest';
import { type Db, openDatabase, openReader } from './connection';
import { DATABASE_FILE } from './opening';
import { untilWritten } from './written';

let folder = '';
let db: Db;
let reader: Db;
let other: Sqlite.Database;

beforeAll(async () => {
  folder = mkdtempSync(join(tmpdir(), 'arvick-written-'));
  db = await openDatabase(folder);
  reader = openReader(folder);
  other = new Sqlite(join(folder, DATABASE_FILE));
  await db.schema.createTable('counter', (t) => void t.integer('n'));
  await db('counter').insert({ n: 0 });
});
afterAll(async () => {
  other.close();
  await Promise.all([db.destroy(), reader.destroy()]);
  rmSync(folder, { recursive: true });
});

let reads = 0;
const read = (from: Db) =>
  untilWritten(from, 'counter', async () => {
    reads += 1;
    return [{ n: (await from('counter').first()).n as number }];
  });

it('what is remembered is what is there, whoever wrote it, within a transaction and after it was taken back', async () => {
  let n = 0;
  const deeds = {
    own: async () => void (await db('counter').update({ n: ++n })),
    another: async () => void other.prepare('update counter set n = ?').run(++n),
    kept: () =>
      db.transaction(async (trx) => {
        await trx('counter').update({ n: ++n });
        expect(await read(trx as unknown as Db)).toEqual([{ n }]);
        // Others see it when it is kept.
        expect(await read(reader)).toEqual([{ n: n - 1 }]);
      }),
    takenBack: async () => {
      const undone = db.transaction(async (trx) => {
        await trx('counter').update({ n: n + 100 });
        expect(await read(trx as unknown as Db)).toEqual([{ n: n + 100 }]);
        throw new Error('taken back');
      });
      await expect(undone).rejects.toThrow('taken back');
    },
    nothing: async () => {},
  };
  await fc.assert(
    fc.asyncProperty(fc.array(fc.constantFrom(...Object.values(deeds)), { maxLength: 12 }), async (list) => {
      for (const deed of list) {
        await deed();
        expect(await Promise.all([read(db), read(reader)])).toEqual([[{ n }], [{ n }]]);
      }
    }),
    { numRuns: 60 },
  );
});

it('while nothing is written it is read once, also by many at once; what failed is read again, and nobody changes it', async () => {
  await db('counter').update({ n: 5 });
  reads = 0;
  const [first] = await Promise.all(Array.from({ length: 20 }, () => read(db)));
  await read(db);
  expect(reads).toBe(1);
  expect(() => first?.push({ n: 6 })).toThrow(TypeError);
  expect(() => {
    if (first?.[0]) first[0].n = 6;
  }).toThrow(TypeError);
  const failing = () => untilWritten(db, 'failing', () => Promise.reject(new Error('no room')));
  await expect(failing()).rejects.toThrow('no room');
  await expect(failing()).rejects.toThrow('no room');
  expect(await untilWritten(db, 'failing', async () => 7)).toBe(7);
});
