import { writeCode } from '../server/access/accounts';
import { now } from '../server/clock';
import { dataFolder, openDatabase } from '../server/db/connection';
import { transact } from '../server/db/transact';

// A code with which somebody chooses a password, for whoever is at the machine: when nobody else can give one.
const name = process.argv.slice(2).join(' ').trim();
const db = await openDatabase(dataFolder());
try {
  const people = await db('person').whereNull('retired_on').orderBy('id').select('id', 'name', 'role');
  const person = people.find((p) => p.name.toLowerCase() === name.toLowerCase());
  if (!person) {
    console.error(
      `${name ? `There is no ${name}.` : 'Say for whom: npm run code -- "Name".'} There is ${people.map((p) => `${p.name} (${p.role})`).join(', ') || 'nobody yet: open the address of the server first'}.`,
    );
    process.exitCode = 1;
  } else {
    const code = await transact(db, (trx) => writeCode(trx, person.id, now()));
    console.log(`${code}\n\n${person.name} enters it at /code and chooses a password. It is good for a week, once.`);
  }
} finally {
  await db.destroy();
}
