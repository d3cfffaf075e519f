import { loadDemo } from '../demo/load';
import { now } from '../server/clock';
import { openDatabase } from '../server/db/connection';

const [folder] = process.argv.slice(2);
if (!folder) throw new Error('Say in which folder to make the demo data.');
const db = await openDatabase(folder);
await loadDemo(db, now());
await db.raw('pragma wal_checkpoint(truncate)');
await db.destroy();
