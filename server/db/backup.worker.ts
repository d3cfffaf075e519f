import { statfsSync, statSync } from 'node:fs';
import { join } from 'node:path';
import { parentPort, workerData } from 'node:worker_threads';
import type { Answered } from '../apart';
import type { UserError } from '../errors';
import { type Backup, type BackupWhy, backUp, backupFolder, type Verified } from './backup';
import { CannotOpen, DATABASE_FILE, readThrough } from './opening';

/** What the worker that takes backups, and reads through what is there, is given. */
export type BackupTask = { data: string; why: BackupWhy; now: number } | { data: string; why: 'read-through' };

const FULL = ['ENOSPC', 'SQLITE_FULL', 'EDQUOT'];

/** Whether the disk for backups had no room: what is written there is cut short then, sometimes without an error. */
function hasNoRoom(error: unknown, data: string): boolean {
  const { code = '' } = error as { code?: string };
  if (FULL.some((c) => code.startsWith(c))) return true;
  try {
    const disk = statfsSync(backupFolder(data));
    return disk.bavail * disk.bsize < statSync(join(data, DATABASE_FILE)).size;
  } catch {
    return false;
  }
}

/** What is said of a backup that could not be taken; the half of it is gone again. */
function notTaken(error: unknown, data: string): { refused: Pick<UserError, 'type' | 'status' | 'title' | 'detail'> } {
  const title = 'No backup was taken';
  if (hasNoRoom(error, data)) {
    const detail =
      'The disk for backups is full. Free some space on it, then take the backup again. Earlier backups are as they were.';
    return { refused: { type: 'disk-full', status: 507, title, detail } };
  }
  if (error instanceof CannotOpen)
    return { refused: { type: error.reason, status: 500, title: 'The backup is not complete', detail: error.message } };
  const { code = '', message = '' } = error as { code?: string; message?: string };
  if (!/^(E[A-Z]+|SQLITE_)/.test(code)) throw error;
  const detail = `The backup could not be written: ${message || code}. Earlier backups are as they were.`;
  return { refused: { type: 'disk', status: 507, title, detail } };
}

async function answer(): Promise<Answered<(Backup & { holds: Verified }) | string | null>> {
  const { data, ...p } = workerData as BackupTask;
  if (p.why === 'read-through') return { made: readThrough(data) };
  try {
    return { made: await backUp(data, p) };
  } catch (error) {
    return notTaken(error, data);
  }
}
parentPort?.postMessage(await answer());
