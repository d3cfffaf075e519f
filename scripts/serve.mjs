// npm run demo [-- --fresh] and npm start: install what is missing, build when stale, make the database, serve it.

import { existsSync, mkdirSync, renameSync, rmSync } from 'node:fs';
import { createServer } from 'node:net';
import { join, resolve } from 'node:path';
import { ensureBuilt, ensureInstalled, fail, root, runTs, startServer } from './setup.mjs';

const demo = process.argv.includes('--demo');
const fresh = process.argv.includes('--fresh');
const unknown = process.argv.slice(2).filter((a) => !['--demo', '--fresh'].includes(a));
if (unknown.length) fail(`Unknown: ${unknown.join(' ')}. Known is --fresh, which starts the demo scenario anew.`);
if (fresh && !demo)
  fail('--fresh goes with the demo only: npm run demo -- --fresh. A programme of your own is never wiped.');
const port = Number(process.env.PORT ?? 4600);
if (!Number.isInteger(port) || port < 1 || port > 65535)
  fail(`PORT is “${process.env.PORT}”; it must be a number from 1 to 65535.`);
const host = process.env.HOST ?? '127.0.0.1';
const data = resolve(root, process.env.ARVICK_DATA ?? (demo ? 'data/demo' : 'data/programme'));

ensureInstalled();
ensureBuilt();

const free = await new Promise((done) => {
  const probe = createServer()
    .once('error', () => done(false))
    .listen(port, host, () => probe.close(() => done(true)));
});
if (!free) fail(`Port ${port} is taken. Stop what runs there, or choose another: PORT=4601 npm run demo.`);

if (demo) {
  const files = ['arvick.sqlite', 'arvick.sqlite-wal', 'arvick.sqlite-shm'];
  if (fresh) for (const file of files) rmSync(join(data, file), { force: true });
  if (!existsSync(join(data, files[0]))) {
    console.log('Making the demo data (about half a minute) ...');
    mkdirSync(data, { recursive: true });
    // Made beside and moved when whole, so that a break in between leaves no half scenario.
    const making = join(data, `making-${process.pid}`);
    runTs('scripts/make-demo.ts', [making]);
    renameSync(join(making, files[0]), join(data, files[0]));
    rmSync(making, { recursive: true, force: true });
  }
}

const server = await startServer({ port, host, data });
if (!server) fail('The server did not start. The lines above say why.');
console.log(
  `\nArvick is at http://${host === '0.0.0.0' ? 'localhost' : host}:${port}   (data in ${data}; Ctrl+C stops it)`,
);
for (const signal of ['SIGINT', 'SIGTERM']) process.on(signal, () => server.kill(signal));
server.once('exit', (code) => process.exit(code ?? 0));
