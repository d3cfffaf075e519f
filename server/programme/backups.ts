import Database from 'better-sqlite3';
import type { Knex } from 'knex';
import { type Anchor, anchorOf } from '../audit/anchor';
import { type ChainSays, readChain } from '../audit/entries';
import { type Backup, backUpApart, backupFolder, backups } from '../db/backup';
import { type Acting, answered, change } from '../db/change';

export { KEPT } from '../db/backup';

import { folderOf } from '../db/connection';
import { programmeRow } from './programme';

/** A backup as it is listed: without the folder, which only whoever runs the machine needs. */
export interface ListedBackup extends Pick<Backup, 'at' | 'why' | 'bytes'> {
  file: string;
}

const MOST_LISTED = 12;

/** Where backups are kept, and the latest of them. */
export async function listedBackups(db: Knex): Promise<{ folder: string; list: ListedBackup[] }> {
  const data = folderOf(db);
  const list = (await backups(data)).slice(0, MOST_LISTED);
  return {
    folder: backupFolder(data),
    list: list.map((b) => ({ at: b.at, why: b.why, bytes: b.bytes, file: b.file.split(/[\\/]/).at(-1) ?? '' })),
  };
}

/** Takes a backup now and reads it through. @throws CannotOpen when it is not whole, the error of the disk */
export async function takeBackup(db: Knex, acting: Acting): Promise<{ rows: number }> {
  const before = await answered<{ rows: number }>(db, acting, 'backup.take', {});
  if (before) return before.result;
  const taken = await backUpApart(folderOf(db), { why: 'asked', now: acting.now });
  return change(db, acting, 'backup.take', {}, async () => ({
    result: { rows: taken.holds.rows },
    entity: 'none',
    entityId: 0,
    detail: { rows: taken.holds.rows, bytes: taken.bytes },
  }));
}

/** What the log was in each backup that can be read: what was taken out of it since shows by them. */
function backupAnchors(list: readonly Backup[], made: number): (Anchor & { at: number })[] {
  return list.flatMap(({ file, at }) => {
    try {
      const db = new Database(file, { readonly: true, fileMustExist: true });
      try {
        const anchor = anchorOf(db, made);
        return anchor ? [{ ...anchor, at }] : [];
      } finally {
        db.close();
      }
    } catch {
      return [];
    }
  });
}

/** Reads the log through and holds it against the latest backups. */
export async function checkLog(db: Knex): Promise<ChainSays> {
  const list = (await backups(folderOf(db))).slice(0, MOST_LISTED);
  const { created_at: made } = await programmeRow(db);
  return readChain(db, backupAnchors(list, made));
}
