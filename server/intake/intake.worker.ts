import type { Subject } from '../../core/intake/columns';
import type { Acting } from '../db/change';
import { openReader, openWriter } from '../db/connection';
import { UserError } from '../errors';
import { type ListKind, listBytes } from '../export/list';
import { type Label, labelSheet } from '../print/labels';
import { answerWork, workerTask } from '../workerTask';
import { applyIntake } from './apply';
import { readFile } from './file';

/** What the worker that takes sheets in is given. */
export type IntakeTask =
  | { task: 'read'; name: string; bytes: Uint8Array }
  | { task: 'export'; folder: string; subject: Subject; kind: ListKind; only: readonly number[] | null }
  | { task: 'labels'; labels: Label[]; sheet: Parameters<typeof labelSheet>[1]; title: string }
  | { task: 'apply'; folder: string; acting: Acting; id: number; expectedVersion: number };

async function work(task: IntakeTask): Promise<unknown> {
  if (task.task === 'read') return readFile(task.name, task.bytes);
  if (task.task === 'labels') return labelSheet(task.labels, task.sheet, task.title);
  if (task.task === 'export') {
    const db = openReader(task.folder);
    return listBytes(db, task.subject, task.kind, task.only).finally(() => db.destroy());
  }
  const db = openWriter(task.folder);
  try {
    return await applyIntake(db, task.acting, task, (progress) => answerWork({ progress }));
  } finally {
    await db.destroy();
  }
}

try {
  answerWork({ made: await work(await workerTask<IntakeTask>()) });
} catch (error) {
  if (!(error instanceof UserError)) throw error;
  const { type, status, title, detail } = error;
  answerWork({ refused: { type, status, title, detail } });
}
