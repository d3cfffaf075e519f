import { once } from 'node:events';
import { createWriteStream, existsSync, renameSync, rmSync } from 'node:fs';
import { join } from 'node:path';
import { dataFolder } from '../server/db/connection';
import { DATABASE_FILE } from '../server/db/opening';
import { programmeJson } from '../server/export/programme';

/** Takes a whole programme along: npm run export -- FILE. ARVICK_DATA names its folder. The server may go on meanwhile. */
const file = process.argv[2];
const folder = dataFolder();
if (!file) {
  console.error('Say where to write it: npm run export -- FILE');
  process.exit(2);
}
if (!existsSync(join(folder, DATABASE_FILE))) {
  console.error(`There is no programme in ${folder}. Name its folder with ARVICK_DATA.`);
  process.exit(2);
}
const half = `${file}.part`;
try {
  const out = createWriteStream(half);
  for await (const piece of programmeJson(folder)) if (!out.write(piece)) await once(out, 'drain');
  out.end();
  await once(out, 'finish');
  renameSync(half, file);
} catch (error) {
  rmSync(half, { force: true });
  console.error(`It could not be written: ${(error as Error).message}. ${file} is as it was.`);
  process.exit(1);
}
console.log(`Everything is in ${file}. Bring it elsewhere: ARVICK_DATA=FOLDER npm run import -- ${file}`);
