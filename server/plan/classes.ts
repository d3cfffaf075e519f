import type { Knex } from 'knex';
import type { ClassRoom } from '../../contract/plan';
import { addDays, earlier, type LocalDate, later, weekdayOf } from '../../core/dates';
import { among } from '../db/among';
import { type Acting, change, insertId } from '../db/change';
import { notFound, refused } from '../errors';
import type { Busy } from './busy';
import { holidaysAhead } from './holidays';
import { instrumentsNamed } from './named';

/** A class that comes every week and has instruments with it. */
export interface WeeklyClass extends Omit<ClassRoom, 'who'> {
  id: number;
  place: string | null;
  instruments: number;
}

/** The first day that a class is held on, holidays apart. */
export const firstLesson = (c: { from_on: LocalDate; weekday: number }): LocalDate =>
  addDays(c.from_on, (c.weekday - weekdayOf(c.from_on) + 7) % 7);

/** Classes that are not over yet, as they come in the week. */
export async function loadClasses(db: Knex, today: LocalDate): Promise<WeeklyClass[]> {
  const rows: {
    id: number;
    name: string;
    place_id: number | null;
    weekday: number;
    from_time: string;
    to_time: string;
    from_on: string;
    to_on: string;
    place: string | null;
    n: number;
  }[] = await db('class as c')
    .leftJoin('place as p', 'p.id', 'c.place_id')
    .leftJoin('class_instrument as x', 'x.class_id', 'c.id')
    .where('c.to_on', '>=', today)
    .groupBy('c.id')
    .orderBy(['c.weekday', 'c.from_time', 'c.id'])
    .select('c.*', 'p.name as place')
    .count({ n: 'x.instrument_id' });
  return rows.map((c) => ({
    id: c.id,
    name: c.name,
    placeId: c.place_id,
    place: c.place,
    weekday: c.weekday,
    fromTime: c.from_time,
    toTime: c.to_time,
    from: c.from_on,
    to: c.to_on,
    instruments: Number(c.n),
  }));
}

/**
 * When instruments are with a class, lesson by lesson, in the order of days. A class is not held on holidays that are
 * everybody's or of its place.
 */
export async function lessonsOf(
  db: Knex,
  ids: readonly number[],
  days: { from: LocalDate; until: LocalDate },
): Promise<Map<number, Busy[]>> {
  const rows = await db('class_instrument as x')
    .join('class as c', 'c.id', 'x.class_id')
    .whereIn('x.instrument_id', among(db, ids))
    .where('c.to_on', '>=', days.from)
    .where('c.from_on', '<=', days.until)
    .orderBy(['c.id', 'x.instrument_id'])
    .select('c.*', 'x.instrument_id');
  const found = new Map<number, Busy[]>();
  if (rows.length === 0) return found;
  const holidays = await holidaysAhead(db, days.from, days.until);
  const lessons = new Map<number, Busy[]>();
  for (const c of rows) {
    let held = lessons.get(c.id);
    if (!held) {
      held = [];
      lessons.set(c.id, held);
      const first = firstLesson({ from_on: later(c.from_on, days.from), weekday: c.weekday });
      const last = earlier(c.to_on, days.until);
      for (let on = first; on <= last; on = addDays(on, 7)) {
        const free = holidays.some(
          (h) => h.from <= on && on <= h.to && (h.placeId === null || h.placeId === c.place_id),
        );
        if (!free)
          held.push({ from: on, to: on, fromTime: c.from_time, toTime: c.to_time, kind: 'lesson', why: c.name });
      }
    }
    found.set(c.instrument_id, [...(found.get(c.instrument_id) ?? []), ...held]);
  }
  for (const own of found.values()) own.sort((a, b) => (a.from < b.from ? -1 : a.from > b.from ? 1 : 0));
  return found;
}

/**
 * Enters a class: every week, on its day and at its hours, its instruments are with it.
 * @throws UserError `who` with the words that are no instrument and no holder, `days`, `hours`, not-found
 */
export async function addClass(
  db: Knex,
  acting: Acting,
  p: ClassRoom,
): Promise<{ classId: number; instruments: number }> {
  return change(db, acting, 'class.add', p, async (trx) => {
    if (p.placeId !== null && !(await trx('place').where({ id: p.placeId }).first())) throw notFound('This place');
    if (p.to < p.from) throw refused('days', 'Check the dates', 'The last day is before the first. Check the dates.');
    if (p.toTime <= p.fromTime)
      throw refused('hours', 'Check the times', 'The end time is before the start. Check the times.');
    const ids = await instrumentsNamed(trx, p.who);
    if (ids.length === 0)
      throw refused('who', 'With which instruments?', 'Enter tags, groups or names, separated by commas.');
    const classId = await insertId(trx, 'class', {
      name: p.name,
      place_id: p.placeId,
      weekday: p.weekday,
      from_time: p.fromTime,
      to_time: p.toTime,
      from_on: p.from,
      to_on: p.to,
    });
    for (const instrument_id of ids) await trx('class_instrument').insert({ class_id: classId, instrument_id });
    return { result: { classId, instruments: ids.length }, entity: 'class', entityId: classId };
  });
}

/** A class is not held any more. */
export async function removeClass(db: Knex, acting: Acting, p: { id: number }): Promise<{ removed: true }> {
  return change(db, acting, 'class.remove', p, async (trx) => {
    const before = await trx('class').where({ id: p.id }).first();
    if (!before) throw notFound('This class');
    const instruments: number[] = await trx('class_instrument').where({ class_id: p.id }).pluck('instrument_id');
    await trx('class_instrument').where({ class_id: p.id }).del();
    await trx('class').where({ id: p.id }).del();
    return {
      result: { removed: true as const },
      entity: 'class',
      entityId: p.id,
      detail: { before: { ...before, instruments } },
    };
  });
}
