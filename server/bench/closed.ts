import type { Knex } from 'knex';
import { sayDone } from '../../core/work/done';
import * as columns from '../db/columns';

export interface RecordSummary {
  recordId: number;
  by: string;
  at: number;
  summary: string;
  notes: string;
}

/** The record that closed a job, if one stands. */
export async function closingRecord(db: Knex, jobId: number): Promise<RecordSummary | null> {
  const row = await db('standing_record as r')
    .join('person as p', 'p.id', 'r.person_id')
    .where({ 'r.job_id': jobId })
    .select('r.*', 'p.name')
    .orderBy('r.id', 'desc')
    .first();
  return row
    ? { recordId: row.id, by: row.name, at: row.at, summary: sayDone(columns.done.read(row.done)), notes: row.notes }
    : null;
}

/** How work was closed, for whoever comes after. */
export const sayClosed = (record: RecordSummary | null): string =>
  record ? `${record.by} has already recorded this: ${record.summary}.` : 'This work is already closed, unchanged.';

/** The notes of a record, with why the work went ahead in spite of an open referral. */
export const withDespite = (job: { despite: string }, notes: string): string =>
  [job.despite && `Went ahead despite an open referral: ${job.despite}.`, notes].filter(Boolean).join(' ');
