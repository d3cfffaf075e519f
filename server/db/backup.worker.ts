import { parentPort, workerData } from 'node:worker_threads';
import type { Answered } from '../apart';
import { type Backup, type BackupWhy, backUp, type Verified } from './backup';
import { CannotOpen, readThrough } from './opening';

/** What the worker that takes backups, and reads through what is there, is given. */
export type BackupTask = { data: string; why: BackupWhy; now: number } | { data: string; why: 'read-through' };

const FULL = ['ENOSPC', 'SQLITE_FULL', 'EDQUOT'];

/** A backup that the disk did not take; the half of it is gone again. */
function unwritten(error: unknown) {
  const { code = '', message = '' } = error as { code?: string; message?: string };
  const full = FULL.some((c) => code.startsWith(c));
  if (!full && !/^(E[A-Z]+|SQLITE_)/.test(code)) throw error;
  return {
    type: full ? 'disk-full' : 'disk',
    status: 507,
    title: 'No backup was taken',
    detail: full
      ? 'The disk for backups is full. Free some space on it, then take the backup again. Earlier backups are as they were.'
      : `The backup could not be written: ${message || code}. Earlier backups are as they were.`,
  };
}

async function answer(): Promise<Answered<(Backup & { holds: Verified }) | string | null>> {
  const { data, ...p } = workerData as BackupTask;
  if (p.why === 'read-through') return { made: readThrough(data) };
  try {
    return { made: await backUp(data, p) };
  } catch (error) {
    if (!(error instanceof CannotOpen)) return { refused: unwritten(error) };
    return { refused: { type: error.reason, status: 500, title: 'The backup is not complete', detail: error.message } };
  }
}
parentPort?.postMessage(await answer());
