import type { Knex } from 'knex';
import type { Subject } from '../../core/intake/columns';
import { runApart } from '../apart';
import { folderOf } from '../db/connection';
import type { IntakeTask } from '../intake/intake.worker';
import type { ListKind } from './list';

const LIMIT_MS = 3 * 60_000;

/** A list as a file, written in a thread of its own: the history of years takes seconds, and nobody waits for it. */
export const listBeside = (
  db: Knex,
  subject: Subject,
  kind: ListKind,
  only: readonly number[] | null,
): Promise<Uint8Array> =>
  runApart<Uint8Array>('intake', { task: 'export', folder: folderOf(db), subject, kind, only } satisfies IntakeTask, {
    ms: LIMIT_MS,
    late: {
      title: 'The list took too long',
      detail: 'The list took too long. Choose fewer instruments, or download the whole programme as JSON.',
    },
  });
