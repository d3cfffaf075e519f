// What every command needs first: packages as the lock file says, and a build of the current sources. Plain Node, so
// that it runs before anything is installed.
import { execFileSync, spawn, spawnSync } from 'node:child_process';
import { createHash } from 'node:crypto';
import { existsSync, mkdirSync, readdirSync, readFileSync, rmSync, statSync, writeFileSync } from 'node:fs';
import { dirname, join, resolve } from 'node:path';
import { fileURLToPath } from 'node:url';

export const root = resolve(dirname(fileURLToPath(import.meta.url)), '..');
const at = (...parts) => join(root, ...parts);

export function fail(message) {
  console.error(`\n${message}`);
  process.exit(1);
}

function run(command, args, failing) {
  const done = spawnSync(command, args, { cwd: root, stdio: ['ignore', 'inherit', 'inherit'] });
  if (done.status !== 0) fail(failing);
}

/** One hash over files and folders of the project. */
export function hashFiles(paths) {
  const hash = createHash('sha256');
  const visit = (path) => {
    if (statSync(path).isDirectory()) {
      for (const name of readdirSync(path).sort()) visit(join(path, name));
    } else {
      hash.update(path.slice(root.length)).update(readFileSync(path));
    }
  };
  for (const path of paths.map((p) => at(p)).filter(existsSync)) visit(path);
  return hash.digest('hex');
}

/** True when a stamp file holds this text. */
const stamped = (file, text) => existsSync(file) && readFileSync(file, 'utf8') === text;

export function ensureInstalled() {
  const major = Number(process.versions.node.split('.')[0]);
  if (major < 20) fail(`Arvick needs Node 20 or newer; this is ${process.version}.`);
  const stamp = at('node_modules', '.arvick-installed');
  const wanted = `${hashFiles(['package-lock.json', 'package.json'])} ${process.versions.modules}`;
  if (stamped(stamp, wanted)) return;
  console.log('Installing packages (a few minutes the first time) ...');
  // Not `npm ci`: it refuses a lock file that does not list the binaries of every other platform, and not every registry
  // carries them all. `install --no-save` takes the locked versions and leaves the lock file as it is.
  run(
    'npm',
    ['install', '--include=dev', '--no-save', '--no-audit', '--no-fund', '--loglevel=error'],
    'The packages could not be installed. Look at the lines above; python3, make and g++ must be there for SQLite.',
  );
  writeFileSync(stamp, wanted);
}

export function ensureBuilt() {
  const stamp = at('dist', '.arvick-built');
  const wanted = hashFiles([
    'src',
    'contract',
    'core',
    'server',
    'public',
    'astro.config.mjs',
    'package-lock.json',
    'tsconfig.json',
  ]);
  if (stamped(stamp, wanted)) return;
  console.log('Building ...');
  const done = spawnSync(process.execPath, [at('node_modules/astro/astro.js'), 'build', '--silent'], {
    cwd: root,
    stdio: ['ignore', 'pipe', 'inherit'],
    env: { ...process.env, ASTRO_TELEMETRY_DISABLED: '1' },
  });
  if (done.status !== 0) fail(`The build failed.\n${done.stdout}`);
  mkdirSync(at('dist'), { recursive: true });
  writeFileSync(stamp, wanted);
}

/** Runs a TypeScript script of this project and waits for it. */
export function runTs(script, args, env = {}) {
  execFileSync(process.execPath, ['--import', 'tsx', at(script), ...args], {
    cwd: root,
    stdio: 'inherit',
    env: { ...process.env, ...env },
  });
}

/** Of many servers on few cores none has helpers that compile ahead: a start then takes a sixth less of the processor. */
export const LEAN = { NODE_OPTIONS: '--v8-pool-size=0' };

/** The moment at which the demo data of the tests live: a Tuesday morning. */
export const FROZEN = '2026-11-24T09:00:00Z';

/**
 * The demo data of the tests, made once for all that copy it.
 * @returns the folder it is in; nobody writes there
 */
export function ensureDemo() {
  const folder = at('.reports', 'demo');
  const stamp = at('.reports', 'demo.made');
  const wanted = hashFiles(['contract', 'core', 'server', 'demo', 'scripts/make-demo.ts', 'package-lock.json']);
  if (stamped(stamp, wanted)) return folder;
  rmSync(folder, { recursive: true, force: true });
  runTs('scripts/make-demo.ts', [folder], { ARVICK_NOW: FROZEN });
  writeFileSync(stamp, wanted);
  return folder;
}

/** The built process that serves the pages. */
export const builtServer = at('dist/server/main.mjs');

/**
 * Starts the built server in a process of its own, which ends with this one; resolves with it once it answers, with
 * null when it ended instead.
 * @returns {Promise<import('node:child_process').ChildProcess | null>}
 */
export async function startServer({ port, host, data, env = {}, stdio = 'inherit' }) {
  const child = spawn(process.execPath, [builtServer], {
    cwd: root,
    stdio: ['ignore', 'pipe', stdio, 'ipc'],
    env: {
      ...process.env,
      ...env,
      PORT: String(port),
      HOST: host,
      ARVICK_DATA: data,
      ARVICK_SERVE: 'yes',
      NODE_ENV: 'production',
    },
  });
  child.stdout.resume();
  let ended = null;
  child.once('exit', (code) => {
    ended = code ?? 1;
  });
  for (let tries = 0; tries < 600; tries++) {
    if (ended !== null) return null;
    try {
      const answer = await fetch(`http://${host === '0.0.0.0' ? '127.0.0.1' : host}:${port}/welcome`, {
        redirect: 'manual',
      });
      if (answer.status < 500) return child;
    } catch {
      // Not listening yet.
    }
    await new Promise((done) => setTimeout(done, 50));
  }
  child.kill('SIGKILL');
  return null;
}
