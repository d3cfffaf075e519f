import type { Knex } from 'knex';
import { addDays } from '../../core/dates';
import { localDate } from '../clock';
import { type Acting, change } from '../db/change';
import * as columns from '../db/columns';
import { conflict, notFound } from '../errors';
import { programmeRow } from '../programme/programme';

const nextStep = columns.columnOf<{ kind: string; to?: string }>('what follows from a fault', columns.anyObject);
/** What a loan is kept under that is a stay at the repairer's. */
const sourceOf = (caseId: number): string => `case ${caseId}`;

/**
 * It has gone to whoever looks at it: until it is back it is neither planned nor on anybody's list for today.
 * @throws UserError not-found, conflict
 */
export async function sendAway(
  db: Knex,
  acting: Acting,
  p: { caseId: number; expectedVersion: number },
): Promise<{ away: true }> {
  return change(db, acting, 'fault.away', p, async (trx) => {
    const row = await trx('fault_case').where({ id: p.caseId }).first();
    if (!row) throw notFound('This case');
    if (row.version !== p.expectedVersion || row.status !== 'open')
      throw conflict('Someone else has changed this case. Reload to see it.', {
        currentVersion: row.version,
      });
    const { time_zone: timeZone } = await programmeRow(trx);
    const there = await trx('instrument_busy')
      .where({ instrument_id: row.instrument_id, source: sourceOf(row.id) })
      .first();
    if (!there)
      await trx('instrument_busy').insert({
        instrument_id: row.instrument_id,
        from_on: localDate(acting.now, timeZone),
        to_on: '2199-12-31',
        why: `with ${nextStep.read(row.next).to ?? 'the repairer'}`,
        kind: 'loan',
        source: sourceOf(row.id),
      });
    await trx('fault_case')
      .where({ id: row.id })
      .update({ version: row.version + 1 });
    return { result: { away: true as const }, entity: 'fault_case', entityId: row.id };
  });
}

/** It is back: the stay at the repairer's ends with the case. */
export async function endAway(trx: Knex, caseId: number, today: string): Promise<void> {
  const away = await trx('instrument_busy')
    .where({ source: sourceOf(caseId) })
    .first();
  if (!away) return;
  const yesterday = addDays(today, -1);
  if (away.from_on > yesterday) await trx('instrument_busy').where({ id: away.id }).del();
  else await trx('instrument_busy').where({ id: away.id }).update({ to_on: yesterday });
}

/** Since when an instrument is away for a case; null while it is here. */
export async function awaySince(db: Knex, caseId: number, today: string): Promise<string | null> {
  const row = await db('instrument_busy')
    .where({ source: sourceOf(caseId) })
    .where('to_on', '>=', today)
    .first('from_on');
  return row?.from_on ?? null;
}
