import { parentPort, workerData } from 'node:worker_threads';
import type { Subject } from '../../core/intake/columns';
import type { Answered } from '../apart';
import type { Acting } from '../db/change';
import { openReader, openWriter } from '../db/connection';
import { UserError } from '../errors';
import { type ListKind, listBytes } from '../export/list';
import { applyIntake } from './apply';
import { readFile } from './file';

/** What the worker that takes sheets in is given. */
export type IntakeTask =
  | { task: 'read'; name: string; bytes: Uint8Array }
  | { task: 'export'; folder: string; subject: Subject; kind: ListKind; only: readonly number[] | null }
  | { task: 'apply'; folder: string; acting: Acting; id: number; expectedVersion: number };

const tell = (answer: Answered<unknown>) => parentPort?.postMessage(answer);

async function work(task: IntakeTask): Promise<unknown> {
  if (task.task === 'read') return readFile(task.name, task.bytes);
  if (task.task === 'export') {
    const db = openReader(task.folder);
    return listBytes(db, task.subject, task.kind, task.only).finally(() => db.destroy());
  }
  const db = openWriter(task.folder);
  try {
    return await applyIntake(db, task.acting, task, (progress) => tell({ progress }));
  } finally {
    await db.destroy();
  }
}

try {
  tell({ made: await work(workerData as IntakeTask) });
} catch (error) {
  if (!(error instanceof UserError)) throw error;
  const { type, status, title, detail } = error;
  tell({ refused: { type, status, title, detail } });
}
