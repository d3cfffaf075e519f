import type Database from 'better-sqlite3';
import { z } from 'zod';

/**
 * What a copy of the log was when it was copied: kept elsewhere, it shows later that entries were taken off its front or
 * its end, which the chain by itself cannot.
 */
export const Anchor = z.object({
  first: z.int(),
  entries: z.int().min(0),
  last: z.int(),
  hash: z.string(),
});
export type Anchor = z.infer<typeof Anchor>;

/**
 * The anchor of the log in a database file; null where it has none, as one from before there was a log.
 * @param made when the programme was begun, in ms: a file of another one has no anchor for this
 */
export function anchorOf(db: Database.Database, made?: number): Anchor | null {
  try {
    if (made !== undefined && db.prepare('select created_at from programme').pluck().get() !== made) return null;
    const row = db.prepare('select min(id) as first, max(id) as last, count(*) as entries from audit').get() as {
      first: number | null;
      last: number | null;
      entries: number;
    };
    if (row.first === null || row.last === null) return null;
    const hash = db.prepare('select hash from audit where id = ?').pluck().get(row.last) as string;
    return { first: row.first, entries: row.entries, last: row.last, hash };
  } catch {
    return null;
  }
}
