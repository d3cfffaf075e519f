import type { Knex } from 'knex';
import type { AsUsual } from '../../contract/bench';
import { FAMILY_NAMES } from '../../core/instruments/build';
import { LEVEL } from '../../core/planning/ladder';
import { plainEntries } from '../../core/work/entries';
import { type Acting, change } from '../db/change';
import { must } from '../db/must';
import { conflict, refused } from '../errors';
import { loadInstrument } from '../fleet/instruments';
import { loadSignOffs } from '../plan/signOffs';
import { type Finished, finishIn } from './finish';
import { loadJob, openJobIn } from './jobs';

/**
 * Records the change that is due as done the usual way, without its steps, by somebody who works that family alone: the
 * usual strings on, taken from the shelf, nothing lost on the way; visits and due dates follow.
 * @throws UserError `not-alone` for those who still learn it, conflict where a job is open, `no-usual-strings`, and as
 *   `finishJob` where the shelf does not cover it
 */
export async function doneAsUsual(db: Knex, acting: Acting, p: AsUsual): Promise<Finished> {
  return change(db, acting, 'job.as-usual', p, async (trx) => {
    const instrument = await loadInstrument(trx, { tag: p.tag });
    const person = must(await trx('person').where({ id: acting.personId }).first());
    const level = (await loadSignOffs(trx))(person, instrument.build.family);
    if (level < LEVEL.alone)
      throw refused(
        'not-alone',
        'Show the steps',
        `${person.name} is not signed off to work alone on ${FAMILY_NAMES[instrument.build.family].toLowerCase()}. Open it on the bench and follow the steps.`,
      );
    const { jobId, joined } = await openJobIn(trx, acting, { tag: p.tag });
    if (joined) throw conflict(`${instrument.tag} is already on the bench. Finish it there.`, {});
    const job = await loadJob(trx, jobId);
    const entries = plainEntries(instrument.positions, job);
    if (entries.every((e) => e.action === 'kept'))
      throw refused(
        'no-usual-strings',
        'No usual set yet',
        `${instrument.tag} has no usual set. Choose one on its page, then record the change.`,
      );
    const change = { jobId, expectedVersion: job.version, entries, discard: [], notes: p.note, minutes: null };
    const finished = await finishIn(trx, acting, change, true);
    return { result: finished, entity: 'job', entityId: jobId };
  });
}
