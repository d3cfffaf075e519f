import { statfs } from 'node:fs/promises';
import type { Knex } from 'knex';
import { backups } from '../db/backup';
import { database, folderOf } from '../db/connection';
import { metricsText } from '../metrics';

/** Whether the data can be read. */
export async function canRead(): Promise<boolean> {
  try {
    await (await database()).raw('select 1 from programme limit 1');
    return true;
  } catch {
    return false;
  }
}

/** What the machine's own watchers are told. */
export const machineMetrics = async () => metricsText(folderOf(await database()));

const DAY_MS = 86_400_000;
/** A clock that is corrected jumps by seconds; one that was set back tells wrong days. */
const CLOCK_MS = 5 * 60_000;
/** So many changes are looked back at for a clock that was ahead of today's. */
const LAST_ENTRIES = 500;
/** Every night one is taken: two nights without are too many. */
const BACKUP_MS = 2.5 * DAY_MS;
const SETTLED_S = 3600;
const LEAST_ROOM_BYTES = 500_000_000;

/** What is wrong with the machine that somebody has to see to, in words; empty where nothing is. */
export async function machineTroubles(db: Knex, now: number): Promise<string[]> {
  const troubles: string[] = [];
  const folder = folderOf(db);
  // Of the last entries the latest: the first change after it was set back already has the wrong time.
  const last = await db(db('audit').orderBy('id', 'desc').limit(LAST_ENTRIES).select('at').as('latest'))
    .max({ at: 'at' })
    .first();
  if (last && last.at > now + CLOCK_MS)
    troubles.push(
      `The server’s clock was set back: the last entry is from ${new Date(last.at).toISOString().slice(0, 16).replace('T', ' ')} UTC, and the clock says ${new Date(now).toISOString().slice(0, 16).replace('T', ' ')}. Set it right, because due dates depend on it.`,
    );
  const [backup] = await backups(folder);
  // One is taken soon after the start where the last is old.
  if (process.uptime() > SETTLED_S && now - (backup?.at ?? 0) > BACKUP_MS)
    troubles.push(
      backup
        ? 'No backup for days. The server has to run at night and be able to write to the backup folder.'
        : 'No backup yet. Leave the server running at night, or take one now.',
    );
  const disk = await statfs(folder).catch(() => null);
  if (disk && disk.bavail * disk.bsize < LEAST_ROOM_BYTES)
    troubles.push(
      `The disk has only ${Math.round((disk.bavail * disk.bsize) / 1e6)} MB left. Free some space, or soon nothing can be recorded.`,
    );
  return troubles;
}
