import { type Remote, wrap } from 'comlink';
import type { StockWorker } from '../../workers/stock.worker';

/**
 * Has something worked out in a worker of its own. Ending it ends the work at once.
 *
 * @returns the answer, or null when it was ended first
 */
export async function ask<T>(
  question: (stock: Remote<StockWorker>) => Promise<T>,
  signal?: AbortSignal,
): Promise<T | null> {
  const worker = new Worker(new URL('../../workers/stock.worker.ts', import.meta.url), { type: 'module' });
  const ended = new Promise<null>((done, failed) => {
    signal?.addEventListener('abort', () => done(null));
    worker.onerror = (event) => failed(new Error(event.message));
  });
  try {
    return await Promise.race([question(wrap<StockWorker>(worker)), ended]);
  } finally {
    worker.terminate();
  }
}
