import { parentPort, workerData } from 'node:worker_threads';
import type { Knex } from 'knex';
import { writeIn } from '../../core/manner';
import { openReader } from '../db/connection';
import { loadProgramme } from '../programme/programme';
import { READS, type ReadName } from './reads';

/** A question to the reader and its answer, which come in any order. */
export interface Question {
  id: number;
  name: ReadName;
  rest: unknown[];
}
export type Reply = { id: number; made: unknown } | { id: number; failed: string };

const db = openReader(workerData as string);

parentPort?.on('message', async ({ id, name, rest }: Question) => {
  try {
    const programme = await loadProgramme(db);
    if (programme) writeIn(programme.manner);
    const read = READS[name] as (db: Knex, ...rest: unknown[]) => Promise<unknown>;
    parentPort?.postMessage({ id, made: await read(db, ...rest) } satisfies Reply);
  } catch (error) {
    parentPort?.postMessage({ id, failed: error instanceof Error ? (error.stack ?? error.message) : String(error) });
  }
});
