import type { Knex } from 'knex';
import type { Subject } from '../../core/intake/columns';
import { exportTable, toCsv } from './tables';
import { toXlsx } from './xlsx';

/** How a list is written. */
export type ListKind = 'csv' | 'xlsx';

/** A list of the programme as the bytes of a file. */
export async function listBytes(
  db: Knex,
  subject: Subject,
  kind: ListKind,
  only: readonly number[] | null,
): Promise<Uint8Array> {
  const table = await exportTable(db, subject, only);
  return kind === 'csv' ? new TextEncoder().encode(toCsv(table)) : new Uint8Array(await toXlsx(table, subject));
}
