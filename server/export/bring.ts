import { existsSync, readdirSync, renameSync, rmSync } from 'node:fs';
import { mkdir } from 'node:fs/promises';
import { join } from 'node:path';
import type { Readable } from 'node:stream';
import type { Knex } from 'knex';
import { folderOf, openDatabase } from '../db/connection';
import { CannotOpen, DATABASE_FILE } from '../db/opening';
import { transact } from '../db/transact';
import { refused } from '../errors';
import { bringProgramme, CannotBring } from './programme';

const exists = () =>
  refused(
    'programme-exists',
    'There is already a programme here',
    'A whole programme can be imported only where there is none yet. Lists can be imported at any time.',
  );

/**
 * Brings a whole programme into the one that is served, while that is empty: made beside it, brought up to date, and taken
 * over in one change.
 * @throws UserError `programme-exists`; `cannot-bring` with what is wrong with the file
 */
export async function bringHere(
  db: Knex,
  source: Readable,
): Promise<{ location: string; rows: number; photos: number }> {
  if (await db('programme').first()) throw exists();
  const folder = folderOf(db);
  const beside = join(folder, `bringing-${process.pid}-${Date.now()}`);
  try {
    const counted = await bringProgramme(beside, source);
    await (await openDatabase(beside)).destroy();
    await takeOver(db, join(beside, DATABASE_FILE));
    await movePhotos(join(beside, 'photos'), join(folder, 'photos'));
    return { location: '/', ...counted };
  } catch (error) {
    if (error instanceof CannotBring || error instanceof CannotOpen)
      throw refused('cannot-bring', 'This file cannot be imported', error.message);
    throw error;
  } finally {
    rmSync(beside, { recursive: true, force: true });
  }
}

async function takeOver(db: Knex, file: string): Promise<void> {
  await db.raw('attach database ? as brought', [file]);
  try {
    await transact(db, async (trx) => {
      if (await trx('programme').first()) throw exists();
      // Rows refer to one another in any order; it is all looked at in the end.
      await trx.raw('pragma defer_foreign_keys = on');
      const tables: { name: string }[] = await trx.raw(
        "select name from brought.sqlite_master where type = 'table' and name not like 'sqlite_%' and name not like 'knex_%'",
      );
      for (const { name } of tables) {
        const columns: { name: string }[] = await trx.raw(`pragma brought.table_info("${name}")`);
        const names = columns.map((c) => `"${c.name}"`).join(', ');
        await trx.raw(`delete from main."${name}"`);
        await trx.raw(`insert into main."${name}" (${names}) select ${names} from brought."${name}" order by rowid`);
      }
    });
  } finally {
    await db.raw('detach database brought');
  }
}

/** Photographs are known by their contents: one that is there already is the same. */
async function movePhotos(from: string, to: string): Promise<void> {
  if (!existsSync(from)) return;
  for (const part of readdirSync(from)) {
    await mkdir(join(to, part), { recursive: true });
    for (const file of readdirSync(join(from, part))) renameSync(join(from, part, file), join(to, part, file));
  }
}
