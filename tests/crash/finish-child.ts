import { finishJob } from '../../server/bench/finish';
import { openDatabase } from '../../server/db/connection';
import { acting, houseEntries } from '../support/small';

/** Finishes a job and kills itself at the given SQL statement of it, as a power cut would. */
const [folder = '', jobId = '', killAt = ''] = process.argv.slice(2);
const db = await openDatabase(folder);
const entries = await houseEntries(db, 'UK-1');
let statements = 0;
db.on('query', () => {
  statements += 1;
  if (statements === Number(killAt)) process.kill(process.pid, 'SIGKILL');
});
await finishJob(db, acting(1, 'crash-key'), {
  jobId: Number(jobId),
  expectedVersion: 1,
  entries,
  discard: [],
  notes: '',
  minutes: 5,
});
process.stdout.write(`acknowledged ${statements}\n`);
process.kill(process.pid, 'SIGKILL');
