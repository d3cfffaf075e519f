import type { Knex } from 'knex';
import { z } from 'zod';
import { mayChange } from '../../contract/permissions';
import { type LocalDate, sayDayLong } from '../../core/dates';
import type { NextStep } from '../../core/faults/types';
import { SAFETY } from '../../core/safety/topics';
import { localDate } from '../clock';
import { among } from '../db/among';
import type { Acting } from '../db/change';
import * as columns from '../db/columns';
import { must } from '../db/must';
import { refused } from '../errors';
import { programmeRow } from '../programme/programme';

/** What follows a case, as its column keeps it. */
export const nextStep = columns.columnOf<NextStep>('what follows a cause', z.looseObject({ kind: z.string() }));

/** An instrument that waits for somebody qualified. */
export interface Referral {
  caseId: number;
  to: string;
  on: LocalDate;
  by: string;
  /** What is done with it until they have looked, and what is not. */
  meanwhile: string;
}

/** The open referrals of instruments, the latest first. */
export async function referralsOf(db: Knex, ids: readonly number[]): Promise<Map<number, Referral[]>> {
  const found = new Map<number, Referral[]>();
  const rows = await db('fault_case as f')
    .join('person as p', 'p.id', 'f.person_id')
    .whereIn('f.instrument_id', among(db, ids))
    .where({ 'f.status': 'open' })
    .orderBy('f.id', 'desc')
    .select('f.id', 'f.instrument_id', 'f.next', 'f.on_day', 'p.name');
  for (const row of rows) {
    const next = nextStep.read(row.next);
    if (next.kind !== 'referral') continue;
    const topic = SAFETY[next.topic ?? 'unsure'];
    const referral = {
      caseId: row.id,
      to: next.to || topic.to,
      on: row.on_day,
      by: row.name,
      meanwhile: topic.meanwhile,
    };
    found.set(row.instrument_id, [...(found.get(row.instrument_id) ?? []), referral]);
  }
  return found;
}

/** Who may close a referral may also say why work goes on in spite of it. */
const mayGoOn = async (trx: Knex, personId: number): Promise<boolean> =>
  mayChange(must(await trx('person').where({ id: personId }).first()).role, 'fault.close') !== null;

/**
 * An open referral stands in front of every work on its instrument, until somebody closes it or names a reason.
 * @param reason why the work goes on in spite of it; empty for none
 * @throws UserError `referred` with what it forbids
 */
export async function requireNoReferral(
  trx: Knex,
  acting: Pick<Acting, 'personId' | 'now'>,
  instrument: { id: number; tag: string },
  reason: string,
): Promise<void> {
  const [referral] = (await referralsOf(trx, [instrument.id])).get(instrument.id) ?? [];
  if (!referral) return;
  const may = await mayGoOn(trx, acting.personId);
  if (reason && may) return;
  const { time_zone: timeZone } = await programmeRow(trx);
  const { to, on, by, meanwhile, caseId } = referral;
  throw refused(
    'referred',
    `Referred to ${to}`,
    `${instrument.tag} was referred to ${to} on ${sayDayLong(on, localDate(acting.now, timeZone))} by ${by}. ${meanwhile} ${
      may
        ? 'Close the case first, or give a reason on the instrument’s page why this work goes ahead.'
        : 'A technician has to close the case first.'
    }`,
    { caseId },
  );
}
