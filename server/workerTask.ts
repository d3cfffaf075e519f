import { once } from 'node:events';
import { parentPort, workerData } from 'node:worker_threads';
import type { Answered } from './apart';

/** What a worker is to do: given to its thread, or sent to its process. */
export const workerTask = async <T>(): Promise<T> =>
  parentPort ? (workerData as T) : ((await once(process, 'message'))[0] as T);

/** Answers whoever started the worker. */
export function answerWork(answer: Answered<unknown>): void {
  if (parentPort) parentPort.postMessage(answer);
  else process.send?.(answer);
}
