import type { Knex } from 'knex';
import { FAMILY_NAMES, type Family } from '../../core/instruments/build';
import { LEVEL } from '../../core/planning/ladder';
import type { Acting } from '../db/change';
import { must } from '../db/must';
import { conflict, notFound, refused } from '../errors';
import { loadSignOffs } from '../plan/signOffs';
import { closingRecord, sayClosed } from './closed';

/**
 * That somebody may work on a family. Asked at every change of open work, not only when it is opened.
 * @throws UserError `not-signed-off` where somebody is kept away from a family until they have learned it
 */
export async function requireSignedOff(trx: Knex, acting: Pick<Acting, 'personId'>, family: Family): Promise<void> {
  const person = must(await trx('person').where({ id: acting.personId }).first());
  if ((await loadSignOffs(trx))(person, family) >= LEVEL.supervised) return;
  throw refused(
    'not-signed-off',
    'Not signed off for this family yet',
    `${FAMILY_NAMES[family]}: ${person.name} is not signed off yet. Watch someone who is, then ask a coordinator to record it under Plan, Who may do what.`,
  );
}

/** As `requireSignedOff`, for the family of an instrument. */
export async function requireSignedOffFor(
  trx: Knex,
  acting: Pick<Acting, 'personId'>,
  instrumentId: number,
): Promise<void> {
  const { family } = must(await trx('instrument').where({ id: instrumentId }).first());
  await requireSignedOff(trx, acting, family);
}

/**
 * The open job that somebody changes, and that they may.
 * @throws UserError not-found, `conflict` with how it was closed, `not-signed-off`
 */
export async function requireOpen(trx: Knex, acting: Pick<Acting, 'personId'>, jobId: number) {
  const job = await trx('job').where({ id: jobId }).first();
  if (!job) throw notFound('This work');
  await requireSignedOffFor(trx, acting, job.instrument_id);
  if (job.status === 'open') return job;
  const record = await closingRecord(trx, jobId);
  throw conflict(sayClosed(record), { current: record, currentVersion: job.version, status: job.status });
}
