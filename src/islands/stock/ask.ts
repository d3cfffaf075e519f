import type { FromStock, ToStock } from '../../workers/stock.worker';

/**
 * Has something worked out in a worker of its own. Ending it ends the work at once.
 *
 * @returns the answer, or null when it was ended first
 */
export function ask<K extends FromStock['kind']>(
  question: ToStock,
  kind: K,
  signal?: AbortSignal,
): Promise<Extract<FromStock, { kind: K }> | null> {
  const worker = new Worker(new URL('../../workers/stock.worker.ts', import.meta.url), { type: 'module' });
  return new Promise((done, failed) => {
    const end = (answer: Extract<FromStock, { kind: K }> | null) => {
      worker.terminate();
      done(answer);
    };
    signal?.addEventListener('abort', () => end(null));
    worker.onmessage = (event: MessageEvent<FromStock>) => {
      if (event.data.kind === kind) end(event.data as Extract<FromStock, { kind: K }>);
    };
    worker.onerror = (event) => {
      worker.terminate();
      failed(new Error(event.message));
    };
    worker.postMessage(question);
  });
}
