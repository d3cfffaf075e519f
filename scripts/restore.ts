import { resolve } from 'node:path';
import { now } from '../server/clock';
import { restore } from '../server/db/backup';
import { dataFolder } from '../server/db/connection';

// npm run restore -- FILE: puts a backup in the place of what is in ARVICK_DATA, which is kept beside it.
const file = process.argv[2];
const data = dataFolder();
if (!file) {
  console.error('Say which backup: npm run restore -- FILE');
  process.exit(2);
}
try {
  const { holds, before, withoutPhotos } = await restore(resolve(file), data, now());
  console.log(
    `${data} holds the backup: ${holds.instruments} instruments, ${holds.records} records.${withoutPhotos > 0 ? ` ${withoutPhotos} photographs are not beside the backup.` : ''}${before ? ` What was there is in ${before}.` : ''} Start the server again.`,
  );
} catch (error) {
  console.error(`Nothing was restored: ${(error as Error).message}`);
  process.exit(1);
}
