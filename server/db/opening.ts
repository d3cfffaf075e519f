import { accessSync, constants, existsSync, mkdirSync, renameSync, rmSync, statSync } from 'node:fs';
import { join } from 'node:path';
import Database from 'better-sqlite3';

/** Why a programme's data cannot be opened, in words for whoever starts the server. */
export class CannotOpen extends Error {
  constructor(
    readonly reason: 'folder' | 'locked' | 'empty' | 'not-a-database' | 'damaged' | 'newer' | 'no-room' | 'read-only',
    says: string,
  ) {
    super(says);
    this.name = 'CannotOpen';
  }
}

export const DATABASE_FILE = 'arvick.sqlite';

const codeOf = (error: unknown): string => String((error as { code?: string }).code ?? '');

/** Makes the folder, and says when it cannot be made or written. @throws CannotOpen */
export function prepareFolder(folder: string): void {
  try {
    mkdirSync(folder, { recursive: true });
  } catch (error) {
    const code = codeOf(error);
    if (code === 'ENOSPC') throw noRoom(folder);
    throw new CannotOpen(
      code === 'EROFS' ? 'read-only' : 'folder',
      code === 'ENOTDIR' || code === 'EEXIST'
        ? `The data folder ${folder} is a file. Name a folder with ARVICK_DATA.`
        : `The data folder ${folder} cannot be created (${code}). Create it, or name another with ARVICK_DATA.`,
    );
  }
  try {
    accessSync(folder, constants.R_OK | constants.W_OK | constants.X_OK);
  } catch (error) {
    if (codeOf(error) === 'EROFS')
      throw new CannotOpen('read-only', `The disk with the data folder ${folder} is read-only. Make it writable.`);
    throw new CannotOpen(
      'folder',
      `This user cannot write to the data folder ${folder} (${codeOf(error)}). Allow it to, or name another folder with ARVICK_DATA.`,
    );
  }
}

const noRoom = (folder: string) =>
  new CannotOpen('no-room', `The disk with the data folder ${folder} is full. Free some space and start again.`);

/** A file of this size is read through in a second; a larger one after the start. */
const READ_FIRST_BYTES = 150_000_000;

/**
 * Reads a large database through, which takes as long as its disk: for a thread beside the server, after the start.
 * @returns what is wrong with it; null where it is whole, or was small enough to be read before
 */
export function readThrough(folder: string): string | null {
  const file = join(folder, DATABASE_FILE);
  if (statSync(file).size <= READ_FIRST_BYTES) return null;
  const db = new Database(file, { readonly: true, fileMustExist: true });
  try {
    const [first] = db.pragma('quick_check(1)') as { quick_check: string }[];
    return first?.quick_check === 'ok' ? null : damaged(file, String(first?.quick_check)).message;
  } catch (error) {
    return inWords(error, folder).message;
  } finally {
    db.close();
  }
}

/**
 * Looks at the file of a programme before anything is done with it.
 *
 * @param known the migrations this version has
 * @returns whether there is a file, and the migrations it lacks
 * @throws CannotOpen when it is empty, no database of Arvick, damaged, or of a newer version
 */
export function lookAt(
  folder: string,
  known: readonly string[],
  /** Reading it all takes its time: where it is opened right after, only what is to be changed is read before. */
  reads: 'always' | 'before-update' = 'always',
): { exists: boolean; lacks: string[] } {
  const file = join(folder, DATABASE_FILE);
  if (!existsSync(file)) return { exists: false, lacks: [...known] };
  if (statSync(file).size === 0)
    throw new CannotOpen(
      'empty',
      `${file} is empty (0 bytes): a copy was cut short, or the disk was full. Put a backup in its place; delete the file only to start a new programme.`,
    );
  let db: Database.Database | null = null;
  try {
    db = openRaw(file);
    const tables = db.prepare("select name from sqlite_master where type = 'table'").pluck().all() as string[];
    if (!tables.includes('knex_migrations'))
      throw new CannotOpen(
        'not-a-database',
        `${file} is a database, but not an Arvick one. Move it away, or name another folder with ARVICK_DATA.`,
      );
    const done = db.prepare('select name from knex_migrations').pluck().all() as string[];
    const newer = done.filter((name) => !known.includes(name));
    if (newer.length > 0)
      throw new CannotOpen(
        'newer',
        `${file} was written by a newer version of Arvick (${newer.join(', ')}). Start that version, or put an earlier backup in its place. Nothing was changed.`,
      );
    const lacks = known.filter((name) => !done.includes(name));
    // A large file is read through after the start, beside it: see `readThrough`.
    if (lacks.length > 0 || (reads === 'always' && statSync(file).size <= READ_FIRST_BYTES)) {
      const [first] = db.pragma('quick_check(1)') as { quick_check: string }[];
      if (first?.quick_check !== 'ok') throw damaged(file, String(first?.quick_check));
    }
    return { exists: true, lacks };
  } catch (error) {
    if (error instanceof CannotOpen) throw error;
    throw inWords(error, folder);
  } finally {
    db?.close();
  }
}

/** An error of the database, in words. */
export function inWords(error: unknown, folder: string): Error {
  const file = join(folder, DATABASE_FILE);
  const code = codeOf(error);
  if (code === 'SQLITE_NOTADB')
    return new CannotOpen(
      'not-a-database',
      `${file} is not a database. Put a backup in its place, or name another folder with ARVICK_DATA.`,
    );
  if (code.startsWith('SQLITE_CORRUPT')) return damaged(file, (error as Error).message);
  if (code === 'SQLITE_FULL' || code === 'ENOSPC' || code === 'SQLITE_IOERR_SHMSIZE' || code === 'SQLITE_IOERR_WRITE')
    return noRoom(folder);
  if (code.startsWith('SQLITE_READONLY') || code === 'EROFS')
    return new CannotOpen('read-only', `${file} cannot be written. Make it and its folder writable for this user.`);
  if (code.startsWith('SQLITE_BUSY') || code.startsWith('SQLITE_LOCKED'))
    return new CannotOpen('locked', `${file} is being written by another program. Stop that, then start again.`);
  if (code.startsWith('SQLITE_CANTOPEN') || code === 'SQLITE_PERM' || code === 'EACCES')
    return new CannotOpen('folder', `${file} cannot be opened (${code}). Check that this user may read and write it.`);
  return error as Error;
}

const damaged = (file: string, says: string) =>
  new CannotOpen(
    'damaged',
    `${file} is damaged: ${says}. Put a backup in its place, and keep the damaged file in case something can be recovered from it. Nothing was changed.`,
  );

/**
 * Opens a file with what every connection has. On a full disk the table that readers share cannot be made; then this
 * process keeps it for itself, so that people can at least read.
 */
export function openRaw(file: string): Database.Database {
  const db = new Database(file, { timeout: BUSY_MS });
  try {
    settle(db);
    return db;
  } catch (error) {
    db.close();
    if (!/SQLITE_(FULL|IOERR|CANTOPEN)/.test(codeOf(error))) throw error;
  }
  const alone = new Database(file, { timeout: BUSY_MS });
  try {
    alone.pragma('locking_mode = EXCLUSIVE');
    settle(alone);
    return alone;
  } catch (error) {
    alone.close();
    throw error;
  }
}

/** Opens a file beside the connection that writes it, for reading alone. @throws the database's error */
export function openForReading(file: string): Database.Database {
  const db = new Database(file, { readonly: true, fileMustExist: true, timeout: BUSY_MS });
  db.pragma('query_only = ON');
  db.pragma('cache_size = -64000');
  return db;
}

/** A wait of the database holds everything up; changes wait longer by themselves. */
const BUSY_MS = 100;

/**
 * Write-ahead logging lets pages read while a change is written; `synchronous = FULL` means that what was acknowledged
 * is on the disk.
 */
function settle(db: Database.Database): void {
  db.pragma('journal_mode = WAL');
  db.pragma('synchronous = FULL');
  db.pragma('foreign_keys = ON');
  db.pragma('cache_size = -64000');
  db.prepare('select count(*) from sqlite_master').get();
}

/**
 * Makes a new file beside and puts it in its place when it is whole, so that a break in between leaves none.
 *
 * @param fill makes the database of a folder
 */
export async function makeWhole(folder: string, fill: (making: string) => Promise<void>): Promise<void> {
  const making = join(folder, `making-${process.pid}`);
  rmSync(making, { recursive: true, force: true });
  mkdirSync(making, { recursive: true });
  await fill(making).catch((error) => {
    rmSync(making, { recursive: true, force: true });
    throw error;
  });
  renameSync(join(making, DATABASE_FILE), join(folder, DATABASE_FILE));
  rmSync(making, { recursive: true, force: true });
}

/**
 * Takes the folder for this process until it ends, however it ends: the lock is the system's own, held on a file.
 * @returns lets go
 * @throws CannotOpen `locked` when another process serves it
 */
export function lockFolder(folder: string): () => void {
  let lock: Database.Database | null = null;
  try {
    lock = new Database(join(folder, 'arvick.lock'), { timeout: 0 });
    lock.pragma('journal_mode = MEMORY');
    lock.exec('begin exclusive');
  } catch (error) {
    lock?.close();
    if (codeOf(error).startsWith('SQLITE_BUSY'))
      throw new CannotOpen(
        'locked',
        `Another process is already serving the data in ${folder}. Stop it, or name another folder with ARVICK_DATA.`,
      );
    // A full disk has no room for a lock; two servers at once are then kept apart by the database's own.
    if (/SQLITE_(FULL|IOERR|CANTOPEN)/.test(codeOf(error))) return () => {};
    throw inWords(error, folder);
  }
  const held = lock;
  return () => held.close();
}
