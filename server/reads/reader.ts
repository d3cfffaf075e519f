import type { Worker } from 'node:worker_threads';
import type { Knex } from 'knex';
import { startWorker } from '../apart';
import { folderOf } from '../db/connection';
import type { Question, Reply } from './reader.worker';
import { READS, type ReadArguments, type ReadName, type ReadResult } from './reads';

interface Waiting {
  done: (value: unknown) => void;
  failed: (error: Error) => void;
}

/** A thread with a connection of its own, which may only read: it sees what was written until its question came. */
class Reader {
  readonly #worker: Worker;
  readonly #waiting = new Map<number, Waiting>();
  #last = 0;
  ended = false;

  constructor(folder: string) {
    this.#worker = startWorker('reader', folder);
    // It waits for questions, and keeps nobody from ending.
    this.#worker.unref();
    this.#worker.on('message', (reply: Reply) => {
      const waiting = this.#waiting.get(reply.id);
      this.#waiting.delete(reply.id);
      if ('made' in reply) waiting?.done(reply.made);
      else waiting?.failed(new Error(reply.failed));
    });
    this.#worker.on('error', (error) => this.#end(error));
    this.#worker.on('exit', () => this.#end(new Error('The thread that reads has ended.')));
  }

  ask(name: ReadName, rest: unknown[]): Promise<unknown> {
    this.#last += 1;
    const id = this.#last;
    return new Promise((done, failed) => {
      this.#waiting.set(id, { done, failed });
      this.#worker.postMessage({ id, name, rest } satisfies Question);
    });
  }

  #end(error: Error): void {
    this.ended = true;
    for (const { failed } of this.#waiting.values()) failed(error);
    this.#waiting.clear();
  }
}

const readers = new Map<string, Reader>();

/**
 * Reads what takes long in a thread beside the server, so that the requests of others are answered meanwhile. Within a
 * change that is under way it is read there, where what the change has written is seen.
 */
export async function readBeside<N extends ReadName>(
  db: Knex,
  name: N,
  ...rest: ReadArguments<N>
): Promise<ReadResult<N>> {
  const here = () => (READS[name] as (db: Knex, ...rest: unknown[]) => Promise<ReadResult<N>>)(db, ...rest);
  if (db.isTransaction) return here();
  const folder = folderOf(db);
  let reader = readers.get(folder);
  if (!reader || reader.ended) {
    reader = new Reader(folder);
    readers.set(folder, reader);
  }
  // Where it cannot, as on a full disk that one connection keeps for itself, it is read here and takes its time.
  return (reader.ask(name, rest) as Promise<ReadResult<N>>).catch(here);
}
