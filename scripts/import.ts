import { dataFolder, openDatabase } from '../server/db/connection';
import { CannotOpen } from '../server/db/opening';
import { bringProgramme, CannotBring, openFile } from '../server/export/programme';

/** Brings a whole programme: npm run import -- FILE. ARVICK_DATA names the folder it goes to, which has none yet. */
const file = process.argv[2];
if (!file) {
  console.error('Say which file: npm run import -- FILE');
  process.exit(2);
}
const folder = dataFolder();
try {
  const { rows, photos } = await bringProgramme(folder, openFile(file));
  // Of an older version it is brought up to date now.
  await (await openDatabase(folder)).destroy();
  console.log(`${rows} rows and ${photos} photographs are in ${folder}. Serve it: ARVICK_DATA=${folder} npm start`);
} catch (error) {
  if (!(error instanceof CannotBring || error instanceof CannotOpen)) throw error;
  console.error(error.message);
  process.exit(1);
}
