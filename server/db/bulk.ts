import { join } from 'node:path';
import Database from 'better-sqlite3';

type Value = string | number | boolean | null;

/**
 * Fast writing of many rows into a database that nobody uses yet: no journal, one transaction. For making large
 * databases only; a program that stops in between leaves the file useless.
 */
export class BulkWriter {
  private readonly db: Database.Database;
  private readonly statements = new Map<string, Database.Statement>();

  constructor(folder: string) {
    this.db = new Database(join(folder, 'arvick.sqlite'));
    this.db.pragma('journal_mode = OFF');
    this.db.pragma('synchronous = OFF');
    this.db.pragma('foreign_keys = OFF');
    this.db.pragma('cache_size = -1000000');
    this.db.exec('begin');
  }

  /** Adds a row and returns its id. */
  insert(table: string, row: Record<string, Value>): number {
    const columns = Object.keys(row);
    const known = `${table}:${columns.join()}`;
    let statement = this.statements.get(known);
    if (!statement) {
      statement = this.db.prepare(
        `insert into ${table} (${columns.join(', ')}) values (${columns.map(() => '?').join(', ')})`,
      );
      this.statements.set(known, statement);
    }
    const values = Object.values(row).map((v) => (typeof v === 'boolean' ? Number(v) : v));
    return Number(statement.run(values).lastInsertRowid);
  }

  /** The one value that a query tells, null where there is none. */
  one(sql: string): string | null {
    return (this.db.prepare(sql).pluck().get() as string | undefined) ?? null;
  }

  close(): void {
    this.db.exec('commit');
    this.db.exec('analyze');
    this.db.pragma('journal_mode = WAL');
    this.db.close();
  }
}
