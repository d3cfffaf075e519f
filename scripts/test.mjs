// npm test: everything that must hold, with nothing set up before. Ends with "N passed, N failed", counted from the
// reports of the runners; a static check that fails counts as one failure.
import { spawn } from 'node:child_process';
import { existsSync, mkdirSync, readFileSync, rmSync } from 'node:fs';
import { join } from 'node:path';
import { ensureChromium } from './chromium.mjs';
import { ensureInstalled, root } from './setup.mjs';

const env = { ...process.env, ASTRO_TELEMETRY_DISABLED: '1', NO_COLOR: '1' };
const bin = (name) => join(root, 'node_modules', '.bin', name);

ensureInstalled();
ensureChromium();
const reports = join(root, '.reports');
mkdirSync(reports, { recursive: true });
for (const report of ['vitest.json', 'playwright.json']) rmSync(join(reports, report), { force: true });

let passed = 0;
let failed = 0;
const broken = [];

/** Runs a command to its end; its output is kept unless it is shown as it comes. */
const run = (command, args, shown = false) =>
  new Promise((done) => {
    const child = spawn(command, args, {
      cwd: root,
      env,
      stdio: ['ignore', shown ? 'inherit' : 'pipe', shown ? 'inherit' : 'pipe'],
    });
    let output = '';
    for (const stream of [child.stdout, child.stderr]) stream?.on('data', (text) => (output += text));
    child.once('error', (error) => done({ status: 1, output: String(error) }));
    child.once('close', (status) => done({ status, output }));
  });

async function check(name, command, args) {
  const started = Date.now();
  const { status, output } = await run(command, args);
  const ok = status === 0;
  console.log(`${ok ? 'ok  ' : 'FAIL'} ${name} (${((Date.now() - started) / 1000).toFixed(0)} s)`);
  if (ok) return;
  console.log(output);
  failed += 1;
  broken.push(name);
}

/** Runs a test runner with its output shown, and adds up its own JSON report. */
async function tests(name, command, args, report, count) {
  const { status } = await run(command, args, true);
  const file = join(reports, report);
  if (!existsSync(file)) {
    failed += 1;
    broken.push(`${name} wrote no report`);
    return;
  }
  const result = count(JSON.parse(readFileSync(file, 'utf8')));
  passed += result.passed;
  failed += result.failed;
  if (result.failed) broken.push(name);
  if (status !== 0 && result.failed === 0) {
    failed += 1;
    broken.push(`${name} ended with ${status}`);
  }
  if (result.passed === 0) {
    failed += 1;
    broken.push(`${name} ran no test`);
  }
}

/** What is served is built, with the data it is tried on, while what needs no server is looked at. */
const building = check('build', process.execPath, [
  '--eval',
  `import('./scripts/setup.mjs').then((m) => { m.ensureBuilt(); m.ensureDemo(); })`,
]);
await Promise.all([
  // Killed at random moments under load; more of it by hand: npm run crash -- 200.
  building.then(() =>
    check('20 kills', process.execPath, [join(root, 'scripts/run-ts.mjs'), 'scripts/crash.ts', '20']),
  ),
  // It looks at every file there is, pages and all others; the build writes types of its own.
  building.then(() => check('types', bin('astro'), ['check', '--minimumSeverity', 'warning'])),
  (async () => {
    const rooms = ['contract', 'core', 'server', 'src', 'demo', 'scripts'];
    await check('format and lint', bin('biome'), ['check', '--error-on-warnings', '.']);
    await check('arrows between rooms', bin('depcruise'), [
      ...rooms,
      '--config',
      '.dependency-cruiser.cjs',
      '--output-type',
      'err',
    ]);
    await check('unused code', bin('knip'), ['--no-progress']);
    await tests('unit and reference tests', bin('vitest'), ['run'], 'vitest.json', (r) => ({
      passed: r.numPassedTests,
      failed: r.numFailedTests + r.numFailedTestSuites * (r.numFailedTests === 0 ? 1 : 0),
    }));
  })(),
]);
await tests('browser tests', bin('playwright'), ['test'], 'playwright.json', (r) => ({
  passed: r.stats.expected,
  failed: r.stats.unexpected + r.stats.flaky + r.errors.length,
}));

if (broken.length) console.log(`\nNot right: ${broken.join(', ')}.`);
console.log(`\n${passed} passed, ${failed} failed`);
process.exit(failed === 0 ? 0 : 1);
