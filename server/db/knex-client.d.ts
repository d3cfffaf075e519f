/** Knex's client for SQLite, which its own types do not name. */
declare module 'knex/lib/dialects/better-sqlite3/index.js' {
  interface Transaction {
    begin: (connection: unknown) => Promise<void>;
  }
  export default class BetterSqlite {
    connectionSettings: { filename: string };
    acquireRawConnection(): Promise<unknown>;
    destroyRawConnection(connection: unknown): Promise<void>;
    transaction(...args: unknown[]): Transaction;
  }
}
