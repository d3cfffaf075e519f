import { mkdirSync, readdirSync } from 'node:fs';
import { resolve } from 'node:path';
import { parseArgs } from 'node:util';
import { loadBulk } from '../demo/bulk';
import { now } from '../server/clock';

/** Makes a large database: npm run seed -- --instruments 20000 --jobs 500000 [--data FOLDER] */
const { values } = parseArgs({
  options: {
    instruments: { type: 'string', default: '20000' },
    jobs: { type: 'string', default: '500000' },
    data: { type: 'string' },
  },
});
const number = (name: 'instruments' | 'jobs'): number => {
  const n = Number(values[name]);
  if (!Number.isInteger(n) || n < 1)
    throw new RangeError(`--${name} is “${values[name]}”; give a whole number above 0.`);
  return n;
};
const size = { instruments: number('instruments'), jobs: number('jobs') };
const folder = resolve(values.data ?? `data/seed-${size.instruments}`);
mkdirSync(folder, { recursive: true });
if (readdirSync(folder).length > 0) {
  console.error(`${folder} is not empty. Give another folder with --data; nothing is overwritten.`);
  process.exit(1);
}
const started = Date.now();
await loadBulk(folder, size, now(), (line) => console.log(line));
console.log(`Made in ${((Date.now() - started) / 1000).toFixed(0)} s. Serve it: ARVICK_DATA=${folder} npm start`);
