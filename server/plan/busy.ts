import type { Knex } from 'knex';
import { addDays, earlier, type LocalDate } from '../../core/dates';
import { localDate } from '../clock';
import { among } from '../db/among';
import { type Acting, change, insertId } from '../db/change';
import { notFound, refused } from '../errors';
import { findByTag } from '../fleet/instruments';
import { programmeRow } from '../programme/programme';
import { lessonsOf } from './classes';

/** When an instrument cannot be had: away on loan, or with a player in a lesson. */
export interface Busy {
  from: LocalDate;
  to: LocalDate;
  /** Local times where it takes only part of a day; null: all day. */
  fromTime: string | null;
  toTime: string | null;
  kind: 'loan' | 'lesson';
  why: string;
}

/** Entries and lessons of classes that touch the days from one to another, by instrument. */
export async function busyAhead(
  db: Knex,
  ids: readonly number[],
  days: { from: LocalDate; until: LocalDate },
): Promise<Map<number, Busy[]>> {
  const found = new Map<number, Busy[]>();
  for (const b of await db('instrument_busy')
    .whereIn('instrument_id', among(db, ids))
    .where('to_on', '>=', days.from)
    .where('from_on', '<=', days.until)
    .orderBy('from_on')) {
    const own = found.get(b.instrument_id) ?? [];
    own.push(busyOf(b));
    found.set(b.instrument_id, own);
  }
  for (const [id, lessons] of await lessonsOf(db, ids, days)) found.set(id, [...(found.get(id) ?? []), ...lessons]);
  return found;
}

export interface BusyEntry extends Busy {
  id: number;
  tag: string;
  /** The calendar it comes from; empty where somebody entered it. */
  source: string;
}

/** Entries of all instruments that are not over yet, the next first. */
export async function loadBusy(db: Knex, today: LocalDate, most: number): Promise<BusyEntry[]> {
  const rows = await db('instrument_busy as b')
    .join('instrument as i', 'i.id', 'b.instrument_id')
    .where('b.to_on', '>=', today)
    .orderBy(['b.from_on', 'b.id'])
    .limit(most)
    .select('b.*', 'i.tag');
  return rows.map((b) => ({ ...busyOf(b), id: b.id, tag: b.tag, source: b.source ?? '' }));
}

const busyOf = (
  b: Record<'from_on' | 'to_on' | 'kind' | 'why', string> & Record<'from_time' | 'to_time', string | null>,
): Busy => ({
  from: b.from_on as LocalDate,
  to: b.to_on as LocalDate,
  fromTime: b.from_time ?? null,
  toTime: b.to_time ?? null,
  kind: b.kind as Busy['kind'],
  why: b.why as string,
});

/**
 * For `whereNotExists` on rows with an instrument: the loan, or whatever takes all of a day, for which it cannot be had.
 *
 * @param column the column with the instrument's id, as `s.instrument_id`
 */
export const goneOn = (db: Knex, column: string, day: LocalDate): Knex.QueryBuilder =>
  db('instrument_busy as gone')
    .whereRaw('gone.instrument_id = ??', [column])
    .where('gone.from_on', '<=', day)
    .where('gone.to_on', '>=', day)
    .whereNull('gone.from_time')
    .select('gone.id');

/** Says that an instrument cannot be had for some days: a loan, a lesson week, a tour. */
export async function setBusy(
  db: Knex,
  acting: Acting,
  p: { tag: string; from: LocalDate; to: LocalDate; why: string; kind?: 'loan' | 'lesson' },
): Promise<{ busyId: number }> {
  return change(db, acting, 'instrument.busy', p, async (trx) => {
    const instrument = await findByTag(trx, p.tag);
    if (!instrument) throw notFound(`“${p.tag}”`);
    if (p.to < p.from) throw refused('days', 'Check the dates', 'The last day is before the first. Check the dates.');
    const busyId = await insertId(trx, 'instrument_busy', {
      instrument_id: instrument.id,
      from_on: p.from,
      to_on: p.to,
      why: p.why,
      kind: p.kind ?? 'loan',
    });
    return { result: { busyId }, entity: 'instrument', entityId: instrument.id };
  });
}

/** Takes an entry back: the instrument can be had after all. */
export async function removeBusy(db: Knex, acting: Acting, p: { id: number }): Promise<{ removed: true }> {
  return change(db, acting, 'instrument.not-busy', p, async (trx) => {
    if ((await trx('instrument_busy').where({ id: p.id }).del()) === 0) throw notFound('This entry');
    return { result: { removed: true as const }, entity: 'instrument_busy', entityId: p.id };
  });
}

/** What was lent is back: it can be had from today on. A loan that had not begun is none. */
export async function endBusy(db: Knex, acting: Acting, p: { id: number }): Promise<{ back: true }> {
  return change(db, acting, 'instrument.back', p, async (trx) => {
    const row = await trx('instrument_busy').where({ id: p.id }).first();
    if (!row) throw notFound('This entry');
    const yesterday = addDays(localDate(acting.now, (await programmeRow(trx)).time_zone), -1);
    if (row.from_on > yesterday) await trx('instrument_busy').where({ id: p.id }).del();
    else
      await trx('instrument_busy')
        .where({ id: p.id })
        .update({ to_on: earlier(row.to_on, yesterday) });
    return {
      result: { back: true as const },
      entity: 'instrument',
      entityId: row.instrument_id,
      detail: { before: row },
    };
  });
}
