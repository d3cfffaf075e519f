import type { Knex } from 'knex';
import type { KeepFact } from '../../contract/fleet';
import type { LocalDate } from '../../core/dates';
import { lengthIn } from '../../core/procedures/facts';
import { localDate } from '../clock';
import { type Acting, change } from '../db/change';
import * as columns from '../db/columns';
import { notFound } from '../errors';
import { type KeptPhoto, photosOf } from '../photos/photos';
import { programmeRow } from '../programme/programme';
import { findByTag } from './instruments';

/** A fact that lasts: how something was found, and goes back. */
export interface Fact {
  said: string;
  on: LocalDate;
  by: string;
}

/**
 * Keeps what was found as a fact of this instrument, for the next technician; a length from nut to bridge becomes the
 * length noted for it. Said empty, it goes.
 */
export async function keepFact(db: Knex, acting: Acting, p: KeepFact & { tag: string }): Promise<{ kept: boolean }> {
  return change(db, acting, 'instrument.fact', p, async (trx) => {
    const row = await findByTag(trx, p.tag);
    if (!row) throw notFound(`“${p.tag}”`);
    const programme = await programmeRow(trx);
    const today = localDate(acting.now, programme.time_zone);
    const person = await trx('person').where({ id: acting.personId }).first();
    const { [p.asked]: _, ...others } = columns.facts.read(row.facts);
    const facts = p.said ? { ...others, [p.asked]: { said: p.said, on: today, by: person?.name ?? '' } } : others;
    const length = lengthIn(p.asked, p.said);
    await trx('instrument')
      .where({ id: row.id })
      .update({
        facts: JSON.stringify(facts),
        ...(length ? { noted_length_mm: length, noted_on: today } : {}),
        version: row.version + 1,
      });
    return { result: { kept: p.said !== '' }, entity: 'instrument', entityId: row.id };
  });
}

/** What the next technician is told of how an instrument was found. */
export interface FoundBefore {
  /** Facts kept for this instrument, by what was asked. */
  facts: Record<string, Fact>;
  /** What was written down the last time, by what was asked. */
  last: Record<string, Fact>;
  photos: KeptPhoto[];
}

const MOST_PHOTOS = 12;

/** What is known from earlier jobs, without the one at hand. */
export async function foundBefore(db: Knex, instrumentId: number, jobId: number | null): Promise<FoundBefore> {
  const instrument = await db('instrument').where({ id: instrumentId }).first();
  const rows = await db('job_answer as a')
    .join('job as j', 'j.id', 'a.job_id')
    .join('person as p', 'p.id', 'j.opened_by')
    .where({ 'j.instrument_id': instrumentId, 'a.outcome': 'measured', 'j.status': 'finished' })
    .where('a.said', 'like', '%"noted"%')
    .orderBy('a.id', 'desc')
    .limit(60)
    .select('a.outcome', 'a.said', 'j.opened_at', 'p.name');
  const { time_zone: timeZone } = await programmeRow(db);
  const last: Record<string, Fact> = {};
  for (const row of rows) {
    const said = columns.said.read(row);
    if (said.outcome !== 'measured' || !('noted' in said) || said.noted.asked in last) continue;
    if (said.noted.said)
      last[said.noted.asked] = { said: said.noted.said, on: localDate(row.opened_at, timeZone), by: row.name };
  }
  const photos = await photosOf(db, instrumentId, MOST_PHOTOS);
  return {
    facts: instrument ? columns.facts.read(instrument.facts) : {},
    last,
    photos: photos.filter((x) => x.jobId !== jobId),
  };
}
