import type Sqlite from 'better-sqlite3';
import type { Knex } from 'knex';

/** What stands beside the connections of a database and sees what they write. */
export interface Watching {
  /** A connection of its own, which never writes; null where there can be none. */
  watch?: Sqlite.Database | null;
}

/** Answers kept at once; what people search for has no end. */
const MOST_KEPT = 2000;

const kept = new WeakMap<Knex, { version: number; values: Map<string, Promise<unknown>> }>();

/**
 * Another number after each commit of anybody, this process or another: SQLite's own `data_version`, as seen by a
 * connection that writes nothing. Asked in microseconds. Null within a transaction, which sees more than others, and
 * where it cannot be asked.
 */
function versionOf(db: Knex): number | null {
  const { watch } = db.client as Watching;
  if (!watch || db.isTransaction) return null;
  try {
    return watch.pragma('data_version', { simple: true }) as number;
  } catch {
    return null;
  }
}

/**
 * What was read stays until anything at all is written: for what every page asks for. Whoever asks while it is read waits
 * for the same. It is shared, so nobody changes it: lists and their entries are frozen.
 *
 * @param key names what is read, with all that it depends on but the database
 */
export async function untilWritten<T>(db: Knex, key: string, read: () => Promise<T>): Promise<T> {
  // Before reading: what is written meanwhile may be in it already, and is then read once more.
  const version = versionOf(db);
  if (version === null) return read();
  let at = kept.get(db);
  if (at?.version !== version) {
    at = { version, values: new Map() };
    kept.set(db, at);
  }
  const known = at.values.get(key);
  if (known) return known as Promise<T>;
  const { values } = at;
  if (values.size >= MOST_KEPT) values.clear();
  const value = read().then(frozen);
  values.set(key, value);
  value.catch(() => values.delete(key));
  return value;
}

function frozen<T>(value: T): T {
  if (Array.isArray(value)) for (const each of value) Object.freeze(each);
  return Object.freeze(value);
}
