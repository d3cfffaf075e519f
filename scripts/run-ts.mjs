// Runs a TypeScript script after making sure that its packages are there.
import { ensureBuilt, ensureInstalled, fail, runTs } from './setup.mjs';

const [script, ...args] = process.argv.slice(2);
if (!script) fail('Say which script to run.');
ensureInstalled();
if (['bench.ts', 'crash.ts'].some((name) => script.endsWith(name))) ensureBuilt();
try {
  runTs(script, args);
} catch {
  process.exit(1);
}
