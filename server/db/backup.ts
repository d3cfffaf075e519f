import { randomBytes } from 'node:crypto';
import { copyFile, mkdir, readdir, rename, rm, stat } from 'node:fs/promises';
import { join, resolve } from 'node:path';
import Database from 'better-sqlite3';
import { Cron } from 'croner';
import { plural } from '../../core/count';
import { runApart } from '../apart';
import { log } from '../log';
import { filesOf } from '../photos/files';
import { WANTED } from '../photos/wanted';
import type { BackupTask } from './backup.worker';
import { CannotOpen, DATABASE_FILE, lockFolder, prepareFolder } from './opening';

/** Why a backup was taken: by the clock, asked for, or before the schema is changed. */
export type BackupWhy = 'night' | 'asked' | 'before-update';

/** So many are kept of each kind; an older one goes when a newer is whole. */
export const KEPT: Record<BackupWhy, number> = { night: 14, asked: 10, 'before-update': 5 };
/** A backup that takes longer is stopped. */
const LONGEST_MS = 2 * 3_600_000;
/** More pages than any database has. */
const ALL_PAGES = 2 ** 31 - 1;
const EVERY_NIGHT = '41 3 * * *';
const NAME = /^arvick-(\d{4}-\d{2}-\d{2}T\d{6}Z)-(night|asked|before-update)\.sqlite$/;

/** The folder with the backups: ARVICK_BACKUPS, which had better be another disk, or `backups` beside the data. */
export const backupFolder = (data: string): string => resolve(process.env.ARVICK_BACKUPS ?? join(data, 'backups'));

export interface Backup {
  file: string;
  /** When it was taken, in ms. */
  at: number;
  why: BackupWhy;
  bytes: number;
}

/** What a backup holds, as it was read from it. */
export interface Verified {
  tables: number;
  rows: number;
  instruments: number;
  records: number;
  photos: string[];
}

/**
 * Opens a backup and reads all of it: that it is whole, that whatever it refers to is in it, how much it holds.
 * @throws CannotOpen `damaged` with what is wrong, `not-a-database`
 */
export function verifyBackup(file: string): Verified {
  let db: Database.Database;
  try {
    db = new Database(file, { readonly: true, fileMustExist: true });
  } catch (error) {
    throw new CannotOpen('folder', `${file} cannot be opened: ${(error as Error).message}`);
  }
  try {
    const whole = db.pragma('integrity_check(1)') as { integrity_check: string }[];
    if (whole[0]?.integrity_check !== 'ok')
      throw new CannotOpen('damaged', `${file} is damaged: ${whole[0]?.integrity_check}.`);
    const lost = db.pragma('foreign_key_check') as { table: string }[];
    if (lost.length > 0)
      throw new CannotOpen(
        'damaged',
        `${file} is not complete: ${lost.length} ${plural(lost.length, 'row')} of ${lost[0]?.table} refer to something that is missing.`,
      );
    const tables = db.prepare("select name from sqlite_master where type = 'table'").pluck().all() as string[];
    if (!tables.includes('knex_migrations'))
      throw new CannotOpen('not-a-database', `${file} is a database, but not an Arvick one.`);
    const count = (table: string): number =>
      tables.includes(table) ? (db.prepare(`select count(*) from "${table}"`).pluck().get() as number) : 0;
    return {
      tables: tables.length,
      rows: tables.reduce((sum, t) => sum + count(t), 0),
      instruments: count('instrument'),
      records: count('change_record'),
      photos: tables.includes('said')
        ? (db.prepare(WANTED).pluck().all() as string[])
        : tables.includes('photo')
          ? (db.prepare('select distinct hash from photo where removed_at is null').pluck().all() as string[])
          : [],
    };
  } catch (error) {
    if (error instanceof CannotOpen) throw error;
    const { code = '', message } = error as { code?: string; message: string };
    throw new CannotOpen(
      code === 'SQLITE_NOTADB' ? 'not-a-database' : 'damaged',
      code === 'SQLITE_NOTADB' ? `${file} is not a database.` : `${file} is damaged: ${message}`,
    );
  } finally {
    db.close();
  }
}

/** The backups there are, the newest first. */
export async function backups(data: string): Promise<Backup[]> {
  const folder = backupFolder(data);
  const found: Backup[] = [];
  for (const name of await readdir(folder).catch(() => [] as string[])) {
    const [, at = '', why] = NAME.exec(name) ?? [];
    if (!why) continue;
    const file = join(folder, name);
    const iso = at.replace(/T(\d\d)(\d\d)(\d\d)Z/, 'T$1:$2:$3Z');
    found.push({ file, at: Date.parse(iso), why: why as BackupWhy, bytes: (await stat(file)).size });
  }
  return found.sort((a, b) => b.at - a.at || (a.file < b.file ? 1 : -1));
}

/** What a backup that was broken off left behind is older than any that is still being taken. */
async function removeHalves(folder: string): Promise<void> {
  for (const name of await readdir(folder)) {
    if (!/\.sqlite\.\w+\.part(-journal|-wal|-shm)?$/.test(name)) continue;
    const made = (await stat(join(folder, name)).catch(() => null))?.mtimeMs;
    if (made !== undefined && Date.now() - made > LONGEST_MS) await rm(join(folder, name), { force: true });
  }
}

/** Puts a file in its place when it is whole. */
async function copyWhole(from: string, to: string): Promise<void> {
  await mkdir(join(to, '..'), { recursive: true });
  const half = `${to}.${randomBytes(4).toString('hex')}.part`;
  await copyFile(from, half);
  await rename(half, to);
}

/**
 * Takes a backup while everybody goes on: all of one moment, verified by reading it, photographs beside it, each once
 * however many backups have it. Older ones go when this one is whole.
 * @throws CannotOpen when it is not whole; the error of the disk. What was there before stays then.
 */
export async function backUp(data: string, p: { why: BackupWhy; now: number }): Promise<Backup & { holds: Verified }> {
  const folder = backupFolder(data);
  prepareFolder(folder);
  const stamp = `${new Date(p.now).toISOString().slice(0, 19).replace(/:/g, '')}Z`;
  const file = join(folder, `arvick-${stamp}-${p.why}.sqlite`);
  // Of its own: two may be taken in the same second, by the clock and by somebody.
  const half = `${file}.${randomBytes(4).toString('hex')}.part`;
  await removeHalves(folder);
  const db = new Database(join(data, DATABASE_FILE), { readonly: true, fileMustExist: true });
  let holds: Verified;
  try {
    // In one go: begun anew after every write of others, one by pieces would never end where people work.
    await db.backup(half, { progress: () => ALL_PAGES });
    // One file, that is opened without anything beside it.
    const copy = new Database(half);
    copy.pragma('journal_mode = DELETE');
    copy.close();
    holds = verifyBackup(half);
    for (const hash of holds.photos)
      for (const picture of filesOf(data, [hash])) {
        const kept = join(folder, 'photos', hash.slice(0, 2), `${hash}.jpg`);
        if (!(await stat(kept).catch(() => null))) await copyWhole(picture, kept).catch(missing(hash));
      }
    await rename(half, file);
  } catch (error) {
    await rm(half, { force: true });
    throw error;
  } finally {
    db.close();
  }
  for (const old of (await backups(data)).filter((b) => b.why === p.why).slice(KEPT[p.why])) await rm(old.file);
  return { file, at: p.now, why: p.why, bytes: (await stat(file)).size, holds };
}

/** A photograph that is not there any more keeps no backup from being taken. */
const missing = (hash: string) => (error: NodeJS.ErrnoException) => {
  if (error.code !== 'ENOENT') throw error;
  log.warn({ hash }, 'A photograph has no file: the backup is without it');
};

/**
 * Puts a backup in the place of what is there, which is kept beside it. Nobody may serve the folder meanwhile.
 * @returns where what was there is now, if there was something
 * @throws CannotOpen `locked` when it is served, `damaged` and the like when the backup is not whole
 */
export async function restore(
  file: string,
  data: string,
  now: number,
): Promise<{ holds: Verified; before: string | null; withoutPhotos: number }> {
  const holds = verifyBackup(file);
  prepareFolder(data);
  const unlock = lockFolder(data);
  try {
    const there = join(data, DATABASE_FILE);
    const making = `${there}.restoring`;
    await copyFile(file, making);
    const again = verifyBackup(making);
    if (again.rows !== holds.rows) throw new CannotOpen('damaged', `${file} could not be copied in full.`);
    let withoutPhotos = 0;
    for (const hash of holds.photos) {
      const [to] = filesOf(data, [hash]);
      if (!to || (await stat(to).catch(() => null))) continue;
      await copyWhole(join(file, '..', 'photos', hash.slice(0, 2), `${hash}.jpg`), to).catch(
        (error: NodeJS.ErrnoException) => {
          if (error.code !== 'ENOENT') throw error;
          withoutPhotos += 1;
        },
      );
    }
    let before: string | null = null;
    if (await stat(there).catch(() => null)) {
      before = `${there}.before-${new Date(now).toISOString().slice(0, 19).replace(/:/g, '')}Z`;
      // What the log holds belongs to the file that goes.
      const old = new Database(there);
      old.pragma('wal_checkpoint(TRUNCATE)');
      old.close();
      await rename(there, before);
      for (const beside of ['-wal', '-shm']) await rm(there + beside, { force: true });
    }
    await rename(making, there);
    return { holds, before, withoutPhotos };
  } finally {
    await rm(`${join(data, DATABASE_FILE)}.restoring`, { force: true });
    unlock();
  }
}

/** Takes a backup in a thread of its own: copying and reading through all of it keeps nobody waiting. */
export const backUpApart = (data: string, p: { why: BackupWhy; now: number }): Promise<Backup & { holds: Verified }> =>
  runApart('backup', { data, ...p } satisfies BackupTask, {
    ms: LONGEST_MS,
    late: {
      title: 'The backup took too long',
      detail: 'The backup took too long and was stopped. Earlier backups are unchanged.',
    },
  });

/** Reads a large database through in a thread of its own. @returns what is wrong with it, or null */
export const readThroughApart = (data: string): Promise<string | null> =>
  runApart('backup', { data, why: 'read-through' } satisfies BackupTask, {
    ms: LONGEST_MS,
    late: { title: 'The check took too long', detail: 'Reading the database through took too long and was stopped.' },
  });

/** A machine that sleeps at night takes one so long after it was started, where the last is older than a day. */
const AFTER_START_MS = 3 * 60_000;
const DAY_MS = 86_400_000;

/** Takes a backup every night, or by day where the nights were missed. @returns stops it */
export function backUpByNight(data: string, now: () => number): () => void {
  const take = async () => {
    const { file, holds } = await backUpApart(data, { why: 'night', now: now() });
    log.info({ file, rows: holds.rows, photos: holds.photos.length }, 'A backup is taken and read through');
  };
  const failed = (error: unknown) => log.error(error, 'The nightly backup was not taken');
  const missed = setTimeout(async () => {
    const [last] = await backups(data);
    if (!last || now() - last.at > DAY_MS) await take().catch(failed);
  }, AFTER_START_MS).unref();
  const job = new Cron(EVERY_NIGHT, { protect: true, unref: true, catch: failed }, take);
  return () => {
    clearTimeout(missed);
    job.stop();
  };
}
