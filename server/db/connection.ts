import { rmSync } from 'node:fs';
import { dirname, join, resolve } from 'node:path';
import type Sqlite from 'better-sqlite3';
import knex, { type Knex } from 'knex';
import BetterSqlite from 'knex/lib/dialects/better-sqlite3/index.js';
import { MIGRATIONS } from './migrations/index';
import { DATABASE_FILE, inWords, lookAt, makeWhole, openForReading, openRaw, prepareFolder } from './opening';
import type { Watching } from './written';

export type Db = Knex;

/** The folder with everything Arvick keeps: ARVICK_DATA, or `data` beside the app. */
export const dataFolder = (): string => resolve(process.env.ARVICK_DATA ?? 'data');

/** Statements that are kept prepared: preparing one takes as long as running it, and pages ask the same ones. */
const MOST_PREPARED = 600;

function keepPrepared(db: Sqlite.Database): Sqlite.Database {
  const kept = new Map<string, Sqlite.Statement>();
  const prepare = db.prepare.bind(db);
  db.prepare = ((sql: string) => {
    const known = kept.get(sql);
    // What was asked last is dropped last.
    if (known) kept.delete(sql);
    const statement = known ?? prepare(sql);
    kept.set(sql, statement);
    if (kept.size > MOST_PREPARED) kept.delete(kept.keys().next().value as string);
    return statement;
  }) as typeof db.prepare;
  return db;
}

/** A connection that sees what others write; null where there can be none. */
function watching(file: string): Sqlite.Database | null {
  try {
    const watch = openForReading(file);
    watch.pragma('data_version');
    return watch;
  } catch {
    return null;
  }
}

/** Knex's own client, with a file opened our way and transactions that may write from their beginning. */
class Client extends BetterSqlite implements Watching {
  watch: Sqlite.Database | null = null;

  override async acquireRawConnection(): Promise<Sqlite.Database> {
    const { filename } = this.connectionSettings;
    const db = keepPrepared(openRaw(filename));
    // What one connection holds alone, as on a full disk, no other can look at.
    if (db.pragma('locking_mode', { simple: true }) === 'normal') this.watch ??= watching(filename);
    return db;
  }

  override async destroyRawConnection(connection: unknown): Promise<void> {
    this.watch?.close();
    this.watch = null;
    return super.destroyRawConnection(connection);
  }

  override transaction(...args: unknown[]) {
    const transaction = super.transaction(...args);
    // Not by Knex's own query: where that cannot begin, the work goes on without a transaction.
    transaction.begin = async (connection) => {
      (connection as Sqlite.Database).exec('BEGIN IMMEDIATE');
    };
    return transaction;
  }
}

const connect = (folder: string, client: typeof BetterSqlite = Client): Db =>
  knex({
    client: client as unknown as typeof Knex.Client,
    connection: { filename: join(folder, DATABASE_FILE) },
    useNullAsDefault: true,
    // A connection that cannot be made is said at once, in its own words.
    pool: { min: 1, max: 1, propagateCreateError: true },
    // It throws what it warns of as well: said once, by whoever asked.
    log: { warn: () => {} },
  });

/** A client whose file can only be read. */
class ReadingClient extends BetterSqlite implements Watching {
  watch: Sqlite.Database | null = null;

  override async acquireRawConnection(): Promise<Sqlite.Database> {
    // It writes nothing, so it sees by itself what others do.
    const db = keepPrepared(openForReading(this.connectionSettings.filename));
    this.watch = db;
    return db;
  }

  override async destroyRawConnection(connection: unknown): Promise<void> {
    this.watch = null;
    return super.destroyRawConnection(connection);
  }
}

/** A connection beside the one that writes; it reads what was written until it asks, and waits for nobody. */
export const openReader = (folder: string): Db => connect(folder, ReadingClient);

/** A connection that writes beside the server's, as of a thread with long work; the schema is up to date already. */
export const openWriter = (folder: string): Db => connect(folder);

/** The folder a connection belongs to. */
export const folderOf = (db: Db): string => dirname(db.client.connectionSettings.filename);

const names = Object.keys(MIGRATIONS).sort();
const migrationSource = {
  getMigrations: async () => names,
  getMigrationName: (name: string) => name,
  getMigration: async (name: string) => MIGRATIONS[name] as Knex.Migration,
};

/** Makes an empty database as a version had it, by the last of its migrations. */
export async function madeUpTo(folder: string, schema: string): Promise<void> {
  const then = names.filter((n) => n <= schema);
  const db = connect(folder);
  try {
    await db.migrate.latest({ migrationSource: { ...migrationSource, getMigrations: async () => then } });
    await db.raw('pragma wal_checkpoint(TRUNCATE)');
  } finally {
    await db.destroy();
  }
}

/** Whether there is a programme in a folder that a newer version of the schema is brought to. @throws CannotOpen */
export function needsUpdate(folder: string): boolean {
  const { exists, lacks } = lookAt(folder, names, 'before-update');
  return exists && lacks.length > 0;
}

/**
 * Opens the database in `folder`, making it and bringing its schema up to date as needed.
 * @throws CannotOpen in words, when it cannot be opened, is damaged, of a newer version, or has no room
 */
export async function openDatabase(folder: string): Promise<Db> {
  prepareFolder(folder);
  const { exists, lacks } = lookAt(folder, names);
  try {
    if (!exists)
      await makeWhole(folder, async (making) => {
        const fresh = connect(making);
        await fresh.migrate.latest({ migrationSource }).finally(() => fresh.destroy());
      });
    const db = connect(folder);
    if (exists && lacks.length > 0)
      await db.migrate.latest({ migrationSource }).catch(async (error) => {
        await db.destroy();
        throw error;
      });
    return db;
  } catch (error) {
    rmSync(join(folder, `making-${process.pid}`), { recursive: true, force: true });
    throw inWords(error, folder);
  }
}

// The pages and the process that serves them are built apart; what they share is known to both by this name.
const SHARED = Symbol.for('arvick.database');
const shared = globalThis as { [SHARED]?: Promise<Db> | undefined };

/** The server's one connection, opened at the first call. */
export function database(): Promise<Db> {
  shared[SHARED] ??= openDatabase(dataFolder()).catch((error) => {
    shared[SHARED] = undefined;
    throw error;
  });
  return shared[SHARED];
}

/** Folds the log of changes into the one file and closes it, as when the server stops. */
export async function closeDatabase(): Promise<void> {
  const db = await shared[SHARED];
  shared[SHARED] = undefined;
  if (!db) return;
  await db.raw('pragma wal_checkpoint(TRUNCATE)').catch(() => {});
  await db.destroy();
}
