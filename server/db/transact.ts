import type { Knex } from 'knex';

/** How long a change waits for another process to let go of the database. */
const PATIENCE_MS = 5000;
const AGAIN_MS = 25;

const isBusy = (error: unknown): boolean => String((error as { code?: string }).code ?? '').startsWith('SQLITE_BUSY');

/**
 * Runs changes in one transaction that holds the right to write from its beginning, so that nothing it has read can be
 * changed by others before it writes. While another process writes it waits, and lets the requests of others go on.
 * Within a transaction it is a part of that one.
 * @throws the database's error, as `SQLITE_BUSY` when the wait was in vain
 */
export async function transact<T>(db: Knex, work: (trx: Knex.Transaction) => Promise<T>): Promise<T> {
  if (db.isTransaction) return db.transaction(work);
  const until = Date.now() + PATIENCE_MS;
  for (;;) {
    let begun = false;
    try {
      return await db.transaction((trx) => {
        begun = true;
        return work(trx);
      });
    } catch (error) {
      if (begun || !isBusy(error) || Date.now() > until) throw error;
    }
    await new Promise((done) => setTimeout(done, AGAIN_MS));
  }
}
