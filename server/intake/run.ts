import type { Knex } from 'knex';
import { runApart } from '../apart';
import { type Acting, answered } from '../db/change';
import { folderOf } from '../db/connection';
import { refused } from '../errors';
import type { IntakeProgress } from './apply';
import type { IntakeTask } from './intake.worker';

interface Running {
  progress: IntakeProgress;
  stop: AbortController;
}
// The pages and what serves them are built apart; both know this by its name.
const SHARED = Symbol.for('arvick.intakes');
const shared = globalThis as { [SHARED]?: Map<string, Running> };
shared[SHARED] ??= new Map();
const running = shared[SHARED];

const keyOf = (db: Knex, id: number) => `${folderOf(db)}/${id}`;
const LIMIT_MS = 5 * 60_000;

type Applied = { location: string; made: Record<string, number>; left: number };

/**
 * Takes a sheet over in a thread of its own, which writes in one change: stopped, killed or out of room, nothing of it is
 * there.
 * @throws UserError of `applyIntake`; `under-way` while the same sheet is being taken over
 */
export async function runIntake(
  db: Knex,
  acting: Acting,
  p: { id: number; expectedVersion: number },
): Promise<Applied> {
  const request = { id: p.id, expectedVersion: p.expectedVersion };
  const before = await answered<Applied>(db, acting, 'intake.apply', request);
  if (before) return before.result;
  const key = keyOf(db, p.id);
  if (running.has(key))
    throw refused(
      'under-way',
      'Import in progress',
      'This sheet is being imported. Wait until it is done, or stop it.',
    );
  const own: Running = { progress: { done: 0, of: 0 }, stop: new AbortController() };
  running.set(key, own);
  const task: IntakeTask = { task: 'apply', folder: folderOf(db), acting, ...request };
  try {
    return await runApart<Applied>(
      'intake',
      task,
      {
        ms: LIMIT_MS,
        late: {
          title: 'The import took too long',
          detail: 'The import took too long. Nothing was imported. Split the list into smaller ones.',
        },
      },
      {
        onProgress: (progress) => {
          own.progress = progress as IntakeProgress;
        },
        stop: own.stop.signal,
      },
    );
  } finally {
    running.delete(key);
  }
}

/** How far the taking over of a sheet is; null when none is under way. */
export const intakeProgress = (db: Knex, id: number): IntakeProgress | null =>
  running.get(keyOf(db, id))?.progress ?? null;

/** Stops the taking over of a sheet. Nothing of it stays. @returns whether one was under way */
export function stopIntake(db: Knex, id: number): { stopped: boolean } {
  const own = running.get(keyOf(db, id));
  own?.stop.abort();
  return { stopped: own !== undefined };
}
