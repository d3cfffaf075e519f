// npm run demo [-- --fresh] and npm start: install what is missing, build when stale, make the database, serve it.

import { existsSync, renameSync, rmSync } from 'node:fs';
import { join, resolve } from 'node:path';
import { pathToFileURL } from 'node:url';
import { builtServer, ensureBuilt, ensureInstalled, fail, root, runTs } from './setup.mjs';

const demo = process.argv.includes('--demo');
const fresh = process.argv.includes('--fresh');
const unknown = process.argv.slice(2).filter((a) => !['--demo', '--fresh'].includes(a));
if (unknown.length) fail(`Unknown: ${unknown.join(' ')}. Known is --fresh, which starts the demo scenario anew.`);
if (fresh && !demo)
  fail('--fresh goes with the demo only: npm run demo -- --fresh. A programme of your own is never wiped.');
const port = Number(process.env.PORT ?? 4600);
const host = process.env.HOST ?? '127.0.0.1';
const data = resolve(root, process.env.ARVICK_DATA ?? (demo ? 'data/demo' : 'data/programme'));

ensureInstalled();
ensureBuilt();

// In this process: whoever ends it ends the server, and nothing is left behind.
Object.assign(process.env, { ARVICK_DATA: data, NODE_ENV: 'production', ARVICK_SERVE: 'from here' });
const { serve, takeFolder } = await import(pathToFileURL(builtServer).href);
// Before anything is made or wiped: another server may be at it.
takeFolder();

if (demo) {
  const files = ['arvick.sqlite', 'arvick.sqlite-wal', 'arvick.sqlite-shm'];
  if (fresh) for (const file of files) rmSync(join(data, file), { force: true });
  if (!existsSync(join(data, files[0]))) {
    console.log('Making the demo data (about half a minute) ...');
    // Made beside and moved when whole, so that a break in between leaves no half scenario.
    const making = join(data, `making-${process.pid}`);
    runTs('scripts/make-demo.ts', [making]);
    renameSync(join(making, files[0]), join(data, files[0]));
    rmSync(making, { recursive: true, force: true });
  }
}

await serve({ host, port });
console.log(
  `\nArvick is at http://${host === '0.0.0.0' ? 'localhost' : host}:${port}   (data in ${data}; Ctrl+C stops it)`,
);
