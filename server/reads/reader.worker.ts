import { parentPort, workerData } from 'node:worker_threads';
import type { Knex } from 'knex';
import { writeIn } from '../../core/manner';
import { END } from '../apart';
import { now } from '../clock';
import { openReader } from '../db/connection';
import { lastChange } from '../db/memo';
import { loadProgramme } from '../programme/programme';
import { ReadAgain } from './again';
import { READS, type ReadName } from './reads';

/** A question to the reader and its answer, which come in any order. */
export interface Question {
  id: number;
  name: ReadName;
  rest: unknown[];
}
export type Reply = { id: number; made: unknown } | { id: number; failed: string };

const db = openReader(workerData as string);

const LOOK_MS = 600;

async function read(name: ReadName, rest: unknown[]): Promise<unknown> {
  const programme = await loadProgramme(db);
  if (programme) writeIn(programme.manner);
  return (READS[name] as (db: Knex, ...rest: unknown[]) => Promise<unknown>)(db, ...rest);
}

const again = new ReadAgain({
  now,
  lastChange: () => lastChange(db),
  // The plan is as of a moment; whoever asks next asks as of now.
  read: (name, rest) =>
    read(name, name === 'planPage' ? [{ ...(rest[0] as { today: string; now: number }), now: now() }] : rest),
});
// What fails is said to whoever asks for it.
const looking = setInterval(() => void again.look().catch(() => {}), LOOK_MS).unref();

parentPort?.on('message', async (asked: Question | typeof END) => {
  if (asked === END) {
    clearInterval(looking);
    await db.destroy();
    parentPort?.close();
    return;
  }
  const { id, name, rest } = asked;
  try {
    const made = await again.answer(name, rest, () => read(name, rest));
    parentPort?.postMessage({ id, made } satisfies Reply);
  } catch (error) {
    parentPort?.postMessage({ id, failed: error instanceof Error ? (error.stack ?? error.message) : String(error) });
  }
});
