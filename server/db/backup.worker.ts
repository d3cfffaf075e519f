import { parentPort, workerData } from 'node:worker_threads';
import type { Answered } from '../apart';
import { type Backup, type BackupWhy, backUp, type Verified } from './backup';
import { CannotOpen } from './opening';

/** What the worker that takes backups is given. */
export interface BackupTask {
  data: string;
  why: BackupWhy;
  now: number;
}

async function answer(): Promise<Answered<Backup & { holds: Verified }>> {
  const { data, ...p } = workerData as BackupTask;
  try {
    return { made: await backUp(data, p) };
  } catch (error) {
    if (!(error instanceof CannotOpen)) throw error;
    return { refused: { type: error.reason, status: 500, title: 'The backup is not complete', detail: error.message } };
  }
}
parentPort?.postMessage(await answer());
