import type { Knex } from 'knex';
import type { LocalDate } from '../../core/dates';
import { type Acting, change, insertId } from '../db/change';
import { notFound, refused } from '../errors';

/** Days on which nobody works, everywhere or at one place. */
export interface Holiday {
  id: number;
  from: LocalDate;
  to: LocalDate;
  name: string;
  /** Null: everywhere. */
  placeId: number | null;
  /** The calendar it came from; empty where somebody entered it. */
  source: string;
}

export async function holidaysAhead(db: Knex, from: LocalDate, until: LocalDate): Promise<Holiday[]> {
  const rows = await db('holiday').where('to_on', '>=', from).where('from_on', '<=', until).orderBy('from_on');
  return rows.map((h) => ({
    id: h.id,
    from: h.from_on,
    to: h.to_on,
    name: h.name,
    placeId: h.place_id,
    source: h.source,
  }));
}

export async function addHoliday(
  db: Knex,
  acting: Acting,
  p: { from: LocalDate; to: LocalDate; name: string; placeId: number | null },
): Promise<{ holidayId: number }> {
  return change(db, acting, 'holiday.add', p, async (trx) => {
    if (p.to < p.from) throw refused('days', 'Check the dates', 'The last day is before the first. Check the dates.');
    if (p.placeId !== null && !(await trx('place').where({ id: p.placeId }).first())) throw notFound('This place');
    const id = await insertId(trx, 'holiday', { from_on: p.from, to_on: p.to, name: p.name, place_id: p.placeId });
    return { result: { holidayId: id }, entity: 'holiday', entityId: id };
  });
}

export async function removeHoliday(db: Knex, acting: Acting, p: { id: number }): Promise<{ removed: true }> {
  return change(db, acting, 'holiday.remove', p, async (trx) => {
    if ((await trx('holiday').where({ id: p.id }).del()) === 0) throw notFound('This holiday');
    return { result: { removed: true as const }, entity: 'holiday', entityId: p.id };
  });
}
