import { existsSync } from 'node:fs';
import { join } from 'node:path';
import { now } from '../server/clock';
import { backUp } from '../server/db/backup';
import { dataFolder } from '../server/db/connection';
import { DATABASE_FILE } from '../server/db/opening';

// npm run backup: a backup of the programme in ARVICK_DATA, into ARVICK_BACKUPS. The server may go on meanwhile.
const data = dataFolder();
if (!existsSync(join(data, DATABASE_FILE))) {
  console.error(`There is no programme in ${data}. Name its folder with ARVICK_DATA.`);
  process.exit(2);
}
try {
  const { file, bytes, holds } = await backUp(data, { why: 'asked', now: now() });
  console.log(
    `${file} (${(bytes / 1e6).toFixed(1)} MB) was taken and read through: ${holds.instruments} instruments, ${holds.records} records, ${holds.photos.length} photographs beside it.`,
  );
} catch (error) {
  console.error(`No backup was taken: ${(error as Error).message}. Those from before are as they were.`);
  process.exit(1);
}
