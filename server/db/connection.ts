import { mkdirSync } from 'node:fs';
import { join, resolve } from 'node:path';
import knex, { type Knex } from 'knex';
import { MIGRATIONS } from './migrations';

export type Db = Knex;

/** The folder with everything Arvick keeps: ARVICK_DATA, or `data` beside the app. */
export const dataFolder = (): string => resolve(process.env.ARVICK_DATA ?? 'data');

/**
 * Opens the database in `folder`, making it and bringing its schema up to date as needed.
 * Write-ahead logging lets pages read while a change is written; `synchronous = FULL` means that what was
 * acknowledged is on the disk.
 */
export async function openDatabase(folder: string): Promise<Db> {
  mkdirSync(folder, { recursive: true });
  const db = knex({
    client: 'better-sqlite3',
    connection: { filename: join(folder, 'arvick.sqlite') },
    useNullAsDefault: true,
    pool: {
      afterCreate: (raw: { pragma: (text: string) => unknown }, done: (error: Error | null) => void) => {
        raw.pragma('journal_mode = WAL');
        raw.pragma('synchronous = FULL');
        raw.pragma('foreign_keys = ON');
        raw.pragma('busy_timeout = 5000');
        raw.pragma('cache_size = -64000');
        done(null);
      },
    },
  });
  await db.migrate.latest({
    migrationSource: {
      getMigrations: async () => Object.keys(MIGRATIONS).sort(),
      getMigrationName: (name: string) => name,
      getMigration: async (name: string) => {
        const migration = MIGRATIONS[name];
        if (!migration) throw new RangeError(`There is no migration “${name}”.`);
        return migration;
      },
    },
  });
  return db;
}

let shared: Promise<Db> | null = null;

/** The server's one connection, opened at the first call. */
export function database(): Promise<Db> {
  shared ??= openDatabase(dataFolder()).catch((error) => {
    shared = null;
    throw error;
  });
  return shared;
}
