import type { Knex } from 'knex';
import { transact } from '../db/transact';
import { tokenHash } from './secrets';

const DAY_MS = 86_400_000;
/** A bench without a network delivers what somebody did within so many days. */
const LATE_DAYS = 14;

/** Somebody's work on a job, as one browser may deliver it after somebody else has taken the device. */
export interface LateWork {
  /** The token of the browser's own cookie, which scripts of pages cannot read. */
  browser: string;
  personId: number;
  jobIds: readonly number[];
  deviceId: number | null;
  now: number;
}

/** Lets this browser deliver somebody's work on these jobs for 14 days, also when they no longer hold the device. */
export async function allowLate(db: Knex, p: LateWork): Promise<void> {
  if (p.jobIds.length === 0) return;
  const browser_hash = tokenHash(p.browser);
  const until = p.now + LATE_DAYS * DAY_MS;
  const known: { job_id: number }[] = await db('late_pass')
    .where({ browser_hash, person_id: p.personId })
    .whereIn('job_id', p.jobIds)
    // Opened again the same day it is not written again.
    .where('until', '>', until - DAY_MS)
    .select('job_id');
  const fresh = p.jobIds.filter((id) => !known.some((k) => k.job_id === id));
  if (fresh.length === 0) return;
  await transact(db, async (trx) => {
    await trx('late_pass').where('until', '<', p.now).del();
    await trx('late_pass')
      .insert(fresh.map((job_id) => ({ browser_hash, person_id: p.personId, job_id, device_id: p.deviceId, until })))
      .onConflict(['browser_hash', 'person_id', 'job_id'])
      .merge();
  });
}

/** Whether this browser may still deliver what somebody did on a job. */
export async function mayDeliverLate(
  db: Knex,
  p: { browser: string | undefined; personId: number; jobId: number; now: number },
): Promise<boolean> {
  if (!p.browser) return false;
  const row = await db('late_pass')
    .where({ browser_hash: tokenHash(p.browser), person_id: p.personId, job_id: p.jobId })
    .where('until', '>=', p.now)
    .first('job_id');
  return row !== undefined;
}

/** Withdraws what may be delivered late for somebody: everywhere, or from one browser. */
export async function endLate(db: Knex, personId: number, browser?: string): Promise<void> {
  await db('late_pass')
    .where({ person_id: personId, ...(browser === undefined ? {} : { browser_hash: tokenHash(browser) }) })
    .del();
}
