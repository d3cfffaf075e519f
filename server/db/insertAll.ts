import type { Knex } from 'knex';

/** Rows that go in one statement. */
const ROWS_AT_ONCE = 2000;

/** Writes many rows of the same columns: one statement and one bound value, however many they are. */
export async function insertAll(trx: Knex, table: string, rows: readonly Record<string, unknown>[]): Promise<void> {
  const columns = Object.keys(rows[0] ?? {});
  const names = columns.map((c) => `"${c}"`).join(', ');
  const values = columns.map((_, i) => `json_extract(value, '$[${i}]')`).join(', ');
  // Of SQLite, as `among` is; another server has a function of its own for the elements of a JSON array.
  const sql = `insert into "${table}" (${names}) select ${values} from json_each(?)`;
  for (let i = 0; i < rows.length; i += ROWS_AT_ONCE)
    await trx.raw(sql, [JSON.stringify(rows.slice(i, i + ROWS_AT_ONCE).map((r) => columns.map((c) => r[c] ?? null)))]);
}
