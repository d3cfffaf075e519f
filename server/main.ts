import { createServer, type RequestListener } from 'node:http';
import { fileURLToPath } from 'node:url';
import { districtSettings } from './access/district';
import { endWorkers } from './apart';
import { now } from './clock';
import { backUp, backUpByNight, readThroughApart } from './db/backup';
import { closeDatabase, database, dataFolder, needsUpdate } from './db/connection';
import { CannotOpen, lockFolder, prepareFolder } from './db/opening';
import { tidyByNight } from './db/tidy';
import { keepTrusted } from './edge';
import { endListening } from './live';
import { log } from './log';
import { planByNight } from './plan/night';
import { shippedFiles } from './shippedFiles';

/** How the process ends: stopped, ended by a fault of its own, a setting that cannot be, data that cannot be opened. */
const EXIT = { stopped: 0, fault: 1, setting: 2, data: 3 } as const;
/** Requests under way are waited for so long when the server stops. */
const DRAIN_MS = 10_000;
/** So long after the start a large database is read through. */
const READ_AFTER_MS = 20_000;
/** Once no request is under way the rest is told to go. */
const DRAINED_MS = 200;

function leave(code: number, says: string): never {
  console.error(`\n${says}`);
  process.exit(code);
}

/** What is wrong with where to listen, in one line. */
function sayListening(error: NodeJS.ErrnoException, host: string, port: number): string {
  switch (error.code) {
    case 'EADDRINUSE':
      return `Port ${port} on ${host} is taken. Stop what runs there, or choose another: PORT=${port + 1}.`;
    case 'EADDRNOTAVAIL':
      return `This machine has no address ${host}. HOST must be an address of this machine: 127.0.0.1 for this machine only, 0.0.0.0 for its network.`;
    case 'ENOTFOUND':
    case 'EAI_AGAIN':
      return `HOST is “${host}”, which is not a valid address. Use 127.0.0.1 for this machine only, 0.0.0.0 for its network.`;
    case 'EACCES':
      return `This user may not listen on port ${port}. Ports below 1024 belong to the system: choose a higher one with PORT.`;
    default:
      return `Listening on ${host}, port ${port}, failed: ${error.message}`;
  }
}

let held: { folder: string; unlock: () => void } | null = null;

/** Takes the data folder for this process, or says in words why it cannot and ends it. */
export function takeFolder(): void {
  const folder = dataFolder();
  if (held?.folder === folder) return;
  try {
    prepareFolder(folder);
    held = { folder, unlock: lockFolder(folder) };
  } catch (error) {
    if (error instanceof CannotOpen) leave(EXIT.data, error.message);
    throw error;
  }
}

/**
 * Serves the programme of a folder until it is told to stop: opens its data or says in words why it cannot be, plans at
 * night, ends what is under way when it stops, and folds everything into the one file.
 * @returns when it answers
 */
export async function serve(p: { host: string; port: number }): Promise<void> {
  if (!Number.isInteger(p.port) || p.port < 1 || p.port > 65_535)
    leave(EXIT.setting, `PORT is “${process.env.PORT}”; it must be a number from 1 to 65535.`);
  try {
    now();
  } catch (error) {
    leave(EXIT.setting, (error as Error).message);
  }
  try {
    districtSettings();
  } catch (error) {
    leave(EXIT.setting, (error as Error).message);
  }
  takeFolder();
  try {
    // Before a newer version changes the schema, what was there is kept as it was.
    if (needsUpdate(dataFolder())) {
      const { file } = await backUp(dataFolder(), { why: 'before-update', now: now() });
      log.info({ file }, 'A backup is taken before the update');
    }
    await database();
  } catch (error) {
    if (error instanceof CannotOpen) leave(EXIT.data, error.message);
    throw error;
  }
  const stopNights = planByNight(await database(), { now });
  const stopTidying = tidyByNight(await database(), dataFolder(), now);
  const stopBackups = backUpByNight(dataFolder(), now);
  const reading = setTimeout(
    () =>
      void readThroughApart(dataFolder()).then(
        (wrong) =>
          wrong && log.fatal({ wrong }, 'The database is damaged: stop the server and put a backup in its place'),
        (error) => log.error(error, 'The database could not be read through'),
      ),
    READ_AFTER_MS,
  ).unref();

  const pages = './entry.mjs';
  const { handler } = (await import(/* @vite-ignore */ pages)) as { handler: RequestListener };
  const files = shippedFiles(fileURLToPath(new URL('../client', import.meta.url)));
  let underWay = 0;
  const server = createServer((request, response) => {
    keepTrusted(request, { proxy: process.env.ARVICK_PROXY === 'yes' });
    try {
      decodeURI(request.url ?? '');
    } catch {
      response.writeHead(400).end('This address is not valid.\n');
      return;
    }
    // What listens for changes is under way for as long as its page is open, and is nothing to wait for.
    if (!request.url?.startsWith('/api/live')) {
      underWay += 1;
      response.once('close', () => {
        underWay -= 1;
      });
    }
    files(request, response, () => handler(request, response));
  });
  await new Promise<void>((listening) => {
    server.once('listening', listening);
    server.once('error', (error: NodeJS.ErrnoException) => leave(EXIT.setting, sayListening(error, p.host, p.port)));
    server.listen(p.port, p.host);
  });

  let ending = false;
  const end = async (code: number): Promise<void> => {
    if (ending) return;
    ending = true;
    stopNights();
    stopTidying();
    stopBackups();
    clearTimeout(reading);
    // Pages that listen for changes would hold the server for as long as they are open.
    endListening();
    const closed = new Promise<void>((gone) => server.close(() => gone()));
    server.closeIdleConnections();
    const timer = setTimeout(() => server.closeAllConnections(), DRAIN_MS);
    const drained = setInterval(() => {
      if (underWay === 0) server.closeAllConnections();
    }, DRAINED_MS);
    await closed;
    clearTimeout(timer);
    clearInterval(drained);
    await endWorkers();
    await closeDatabase().catch((error) => log.error(error, 'The database did not close'));
    held?.unlock();
    process.exit(code);
  };
  for (const signal of ['SIGINT', 'SIGTERM'] as const) process.on(signal, () => void end(EXIT.stopped));
  // Whoever started it and waits for it is gone.
  if (process.send) process.on('disconnect', () => void end(EXIT.stopped));
  // A promise that nobody held: what it was for has failed, and only that.
  process.on('unhandledRejection', (reason) => log.error(reason, 'Nobody waited for this'));
  // What was thrown past everybody leaves things in a state that nobody knows: end, so that it is started anew.
  process.on('uncaughtException', (error) => {
    log.fatal(error, 'A fault that nobody caught; the server ends');
    void end(EXIT.fault);
    setTimeout(() => process.exit(EXIT.fault), DRAIN_MS + 2000).unref();
  });
}

// Started by itself, as by a service manager; a program that imports it calls it.
if (process.env.ARVICK_SERVE === 'yes')
  await serve({ host: process.env.HOST ?? '127.0.0.1', port: Number(process.env.PORT ?? 4600) });
