import { type ChildProcess, fork, type Serializable } from 'node:child_process';
import { existsSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { fileURLToPath, pathToFileURL } from 'node:url';
import { Worker } from 'node:worker_threads';
import { UserError } from './errors';

/** The workers there are, by the names of their files. */
export type Apart = 'night' | 'calendar' | 'intake' | 'reader' | 'backup';

const FOLDERS: Record<Apart, string> = {
  night: 'plan',
  calendar: 'plan',
  intake: 'intake',
  reader: 'reads',
  backup: 'db',
};

/** What a worker answers: what it made, or what is wrong in words for its user. */
export type Answered<T> =
  | { made: T }
  | { progress: unknown }
  | { refused: Pick<UserError, 'type' | 'status' | 'title' | 'detail'> };

const running = new Set<Worker>();
/** Those that listen for the end; the others work without looking up. */
const endsByItself = new WeakSet<Worker>();

/** Starts a worker, built beside the server, or from its source where nothing is built. */
export function startWorker(name: Apart, workerData: unknown): Worker {
  const worker = findWorker(name, workerData);
  running.add(worker);
  if (name === 'reader') endsByItself.add(worker);
  worker.once('exit', () => running.delete(worker));
  return worker;
}

/** Where the file of a worker is: built beside the server, or its source. @throws UserError `not-built` */
function workerFile(name: Apart): { built: string } | { source: string } {
  let folder = dirname(fileURLToPath(import.meta.url));
  for (let up = 0; up < 4; up++) {
    const built = join(folder, `${name}.worker.mjs`);
    if (existsSync(built)) return { built };
    const source = join(folder, FOLDERS[name], `${name}.worker.ts`);
    if (existsSync(source)) return { source };
    folder = dirname(folder);
  }
  throw new UserError(
    'not-built',
    500,
    'A part of Arvick is missing',
    'Tell whoever runs Arvick that it has to be built again: npm run build.',
  );
}

function findWorker(name: Apart, workerData: unknown): Worker {
  const file = workerFile(name);
  if ('built' in file) return new Worker(file.built, { workerData });
  const url = JSON.stringify(pathToFileURL(file.source).href);
  // A worker does not take over a loader from the command line.
  const run = `import('tsx/esm/api').then(({ tsImport }) => tsImport(${url}, ${url}))`;
  return new Worker(run, { eval: true, workerData });
}

/** Why a worker failed: errors of other libraries lose their sentence on the way between threads. */
function reasonOf(error: unknown): string {
  const { message, code } = (error ?? {}) as { message?: string; code?: string };
  return message || code || 'it gave no reason, see its log.';
}

const processes = new Set<ChildProcess>();

/** V8 aborts where its memory does not suffice: by a signal, or by this code where a shell stands between. */
const ABORTED = 134;

/** Why a process ended before it answered. */
const endedEarly = (code: number | null, signal: NodeJS.Signals | null): UserError =>
  signal === 'SIGABRT' || code === ABORTED
    ? new UserError(
        'too-large',
        422,
        'The file is too large',
        'Reading the file needs more memory than it may. Save only the part you need and try again. Nothing was changed.',
      )
    : new UserError(
        'stopped',
        503,
        'It was stopped',
        'It was stopped before it was done. Nothing was changed. Try again.',
      );

/**
 * Runs what reads a stranger's file in a process of its own with a limit of memory and of time: whatever is in the file,
 * this process goes on.
 * @throws UserError of the worker; `too-large` when the memory does not suffice; `took-too-long` when the time is up
 */
export function runInProcess<T>(
  name: Apart,
  data: unknown,
  limit: { ms: number; megabytes: number; late: { title: string; detail: string } },
): Promise<T> {
  return new Promise((done, failed) => {
    const file = workerFile(name);
    const child = fork('built' in file ? file.built : file.source, {
      execArgv: [`--max-old-space-size=${limit.megabytes}`, ...('built' in file ? [] : ['--import', 'tsx'])],
      serialization: 'advanced',
      stdio: ['ignore', 'ignore', 'ignore', 'ipc'],
    });
    processes.add(child);
    const end = (act: () => void) => {
      clearTimeout(timer);
      act();
      child.kill('SIGKILL');
    };
    const timer = setTimeout(
      () => end(() => failed(new UserError('took-too-long', 422, limit.late.title, limit.late.detail))),
      limit.ms,
    );
    child.on('message', (answer: Answered<T>) => {
      if ('progress' in answer) return;
      end(() => {
        if ('made' in answer) return done(answer.made);
        const { type, status, title, detail } = answer.refused;
        failed(new UserError(type, status, title, detail));
      });
    });
    child.on('error', (error) => end(() => failed(error)));
    child.once('exit', (code, signal) => {
      processes.delete(child);
      end(() => failed(endedEarly(code, signal)));
    });
    child.send(data as Serializable);
  });
}

/** What a worker is told when it is to end by itself; one that opens a file just then must not be cut off. */
export const END = 'end';
const END_MS = 2000;

/** Ends all workers, as when the server stops. Whoever waits for one is told. */
export async function endWorkers(): Promise<void> {
  for (const child of processes) child.kill('SIGKILL');
  await Promise.all(
    [...running].map(async (worker) => {
      const ended = new Promise<void>((done) => worker.once('exit', () => done()));
      worker.postMessage(END);
      await Promise.race([ended, new Promise((late) => setTimeout(late, endsByItself.has(worker) ? END_MS : 0))]);
      await worker.terminate();
    }),
  );
}

/**
 * Runs heavy work in a thread of its own, so that the requests of others are answered meanwhile, and ends it after a
 * time.
 * @throws UserError of the worker; `late` with its words when the time is up; `stopped` when the worker ends without one
 */
export function runApart<T>(
  name: Apart,
  data: unknown,
  limit: { ms: number; late: { title: string; detail: string } },
  more: { onProgress?: (progress: unknown) => void; stop?: AbortSignal } = {},
): Promise<T> {
  return new Promise((done, failed) => {
    const worker = startWorker(name, data);
    const end = (act: () => void) => {
      clearTimeout(timer);
      act();
      void worker.terminate();
    };
    const timer = setTimeout(
      () => end(() => failed(new UserError('took-too-long', 422, limit.late.title, limit.late.detail))),
      limit.ms,
    );
    more.stop?.addEventListener('abort', () => void worker.terminate(), { once: true });
    worker.on('message', (answer: Answered<T>) => {
      if ('progress' in answer) return more.onProgress?.(answer.progress);
      end(() => {
        if ('made' in answer) return done(answer.made);
        const { type, status, title, detail } = answer.refused;
        failed(new UserError(type, status, title, detail));
      });
    });
    worker.once('error', (error) =>
      end(() =>
        failed(
          new UserError(
            'stopped',
            500,
            'It stopped before it was done',
            `It stopped before it was done. Nothing was changed. Tell whoever runs Arvick: ${reasonOf(error)}`,
          ),
        ),
      ),
    );
    worker.once('exit', () => end(() => failed(endedEarly(null, null))));
  });
}
