import { setImmediate } from 'node:timers/promises';
import { Cron } from 'croner';
import type { Knex } from 'knex';
import { addEnded } from '../audit/entries';
import { log } from '../log';
import { sweepFiles } from '../photos/files';
import { stillThere } from '../photos/photos';
import { transact } from './transact';

const DAY_MS = 86_400_000;
/** A bench that was without a network for longer than this sends again what nobody remembers having done. */
export const KEYS_DAYS = 180;
/** Who did what is told so long; the records themselves stay for good. */
export const AUDIT_DAYS = 5 * 365;
/** Writes of instruments that are remembered after a night, and that go in one change. */
const TOUCHED_KEPT = 10_000;
/** Rows that go in one change, so that nobody waits for it. */
const AT_ONCE = 500;
const EVERY_NIGHT = '17 4 * * *';

/**
 * Removes keys and audit entries that are older than they are kept, and the names of those who said something by a label.
 * @returns how many of each went
 */
export async function tidy(db: Knex, now: number): Promise<{ keys: number; audit: number; names: number }> {
  const remove = async (table: string, id: string, days: number): Promise<number> => {
    const old = db(table)
      .where('at', '<', now - days * DAY_MS)
      .orderBy('at')
      .limit(AT_ONCE)
      .select(id);
    let all = 0;
    for (;;) {
      const gone = await transact(db, (trx) => trx(table).whereIn(id, old.clone()).del());
      all += gone;
      if (gone < AT_ONCE) return all;
      await setImmediate();
    }
  };
  const [programme] = await db('programme').select('said_days');
  const names = programme
    ? await transact(db, (trx) =>
        trx('said')
          .whereNot('who', '')
          .where('at', '<', now - programme.said_days * DAY_MS)
          .update({ who: '' }),
      )
    : 0;
  // Whoever has not read that far reads all anew.
  const written = await db('instrument_touched').min({ first: 'seq' }).max({ last: 'seq' }).first();
  const until = Number(written?.last ?? 0) - TOUCHED_KEPT;
  for (let from = Number(written?.first ?? 0); from < until; from += TOUCHED_KEPT) {
    const to = Math.min(until, from + TOUCHED_KEPT);
    await transact(db, (trx) => trx('instrument_touched').where('seq', '<', to).del());
    await setImmediate();
  }
  return {
    keys: await remove('idempotency', 'key', KEYS_DAYS),
    audit: await endOldEntries(db, now),
    names,
  };
}

/** Removes entries older than they are kept, the oldest first, and leaves one entry that says so. @returns how many went */
async function endOldEntries(db: Knex, now: number): Promise<number> {
  const through = await transact(db, async (trx) => {
    const young = await trx('audit')
      .where('at', '>=', now - AUDIT_DAYS * DAY_MS)
      .min({ id: 'id' })
      .first();
    const old = trx('audit').where('id', '<', young?.id ?? Number.MAX_SAFE_INTEGER);
    const last = await old.clone().orderBy('id', 'desc').first('id', 'hash');
    if (!last) return null;
    const [counted] = await old.clone().count({ n: '*' });
    await addEnded(trx, now, { through: last.id, entries: Number(counted?.n ?? 0), hash: last.hash });
    return last.id;
  });
  if (through === null) return 0;
  const next = db('audit').where('id', '<=', through).orderBy('id').limit(AT_ONCE).select('id');
  for (let all = 0; ; await setImmediate()) {
    const gone = await transact(db, (trx) => trx('audit').whereIn('id', next.clone()).del());
    all += gone;
    if (gone < AT_ONCE) return all;
  }
}

/** Tidies every night. @param data the folder with the files beside the database @returns stops it */
export function tidyByNight(db: Knex, data: string, now: () => number): () => void {
  const job = new Cron(
    EVERY_NIGHT,
    { protect: true, unref: true, catch: (error) => log.error(error, 'Old keys could not be removed') },
    async () => {
      const gone = await tidy(db, now());
      if (gone.keys + gone.audit + gone.names > 0) log.info(gone, 'Old keys, audit entries and names are removed');
      const pictures = await sweepFiles(data, (hashes) => stillThere(db, hashes), Date.now());
      if (pictures > 0) log.info({ pictures }, 'Files of photographs that were taken away are removed');
    },
  );
  return () => job.stop();
}
