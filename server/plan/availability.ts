import type { Knex } from 'knex';
import type { AwayDay, Weekly } from '../../contract/plan';
import type { LocalDate } from '../../core/dates';
import { minuteOf } from '../../core/planning/shifts';
import { type Acting, change, insertId, requireOwn } from '../db/change';
import { requireSeen } from '../db/seen';
import { notFound, refused } from '../errors';

/** When somebody works where, week after week. */
export interface Availability {
  id: number;
  personId: number;
  person: string;
  placeId: number;
  place: string;
  /** 1 is Monday, 7 Sunday. */
  weekday: number;
  minutes: number;
  /** Local time it begins, as "09:00". */
  starts: string;
}

export async function loadAvailability(db: Knex): Promise<Availability[]> {
  const rows = await db('availability as a')
    .join('person as p', 'p.id', 'a.person_id')
    .join('place as l', 'l.id', 'a.place_id')
    .orderBy(['a.person_id', 'a.weekday', 'a.starts'])
    .select('a.*', 'p.name as person', 'l.name as place');
  return rows.map((r) => ({
    id: r.id,
    personId: r.person_id,
    person: r.person,
    placeId: r.place_id,
    place: r.place,
    weekday: r.weekday,
    minutes: r.minutes,
    starts: r.starts,
  }));
}

/** Adds a time somebody works every week. */
export async function addAvailability(db: Knex, acting: Acting, p: Weekly): Promise<{ availabilityId: number }> {
  return change(db, acting, 'availability.add', p, async (trx) => {
    await requireOwn(trx, acting, 'availability.add', p.personId);
    if (!(await trx('person').where({ id: p.personId }).first())) throw notFound('This person');
    if (!(await trx('place').where({ id: p.placeId }).first())) throw notFound('This place');
    if (minuteOf(p.starts) + p.minutes > DAY_MINUTES)
      throw refused('past-midnight', 'Past midnight', 'Enter what is before midnight, and the rest for the day after.');
    const same = await trx('availability').where({ person_id: p.personId, weekday: p.weekday });
    const clash = same.find(
      (a) => minuteOf(a.starts) < minuteOf(p.starts) + p.minutes && minuteOf(p.starts) < minuteOf(a.starts) + a.minutes,
    );
    if (clash) throw refused('clash', 'In two places at once', 'This person works elsewhere at that time.');
    const id = await insertId(trx, 'availability', {
      person_id: p.personId,
      place_id: p.placeId,
      weekday: p.weekday,
      minutes: p.minutes,
      starts: p.starts,
    });
    return { result: { availabilityId: id }, entity: 'availability', entityId: id };
  });
}

export async function removeAvailability(db: Knex, acting: Acting, p: { id: number }): Promise<{ removed: true }> {
  return change(db, acting, 'availability.remove', p, async (trx) => {
    const row = await trx('availability').where({ id: p.id }).first();
    if (!row) throw notFound('This time');
    await requireOwn(trx, acting, 'availability.remove', row.person_id);
    await trx('availability').where({ id: p.id }).del();
    return { result: { removed: true as const }, entity: 'availability', entityId: p.id };
  });
}

/** Says that somebody is away on a day, or, without a reason, that they are there after all. */
export async function setAway(db: Knex, acting: Acting, p: AwayDay): Promise<{ away: boolean }> {
  return change(db, acting, 'availability.away', p, async (trx) => {
    await requireOwn(trx, acting, 'availability.away', p.personId);
    if (!(await trx('person').where({ id: p.personId }).first())) throw notFound('This person');
    const row = { person_id: p.personId, on_day: p.on };
    await trx('availability_exception').where(row).del();
    if (p.why) await trx('availability_exception').insert({ ...row, why: p.why });
    return { result: { away: p.why !== '' }, entity: 'person', entityId: p.personId };
  });
}

const DAY_MINUTES = 24 * 60;

/** Minutes from one place to another; 0 where nobody has said. */
export type Travel = (fromId: number, toId: number) => number;

export async function loadTravel(db: Knex): Promise<Travel> {
  const known = new Map((await db('travel')).map((t) => [`${t.from_id}/${t.to_id}`, t.minutes as number]));
  return (from, to) => (from === to ? 0 : (known.get(`${from}/${to}`) ?? known.get(`${to}/${from}`) ?? 0));
}

/** Says how long the way between two places takes, both ways; 0 forgets it. */
export async function setTravel(
  db: Knex,
  acting: Acting,
  p: { fromId: number; toId: number; minutes: number; was?: string | undefined },
): Promise<{ minutes: number }> {
  return change(db, acting, 'travel.set', p, async (trx) => {
    for (const id of [p.fromId, p.toId]) if (!(await trx('place').where({ id }).first())) throw notFound('This place');
    if (p.fromId === p.toId) throw refused('same-place', 'The same place', 'Choose two different places.');
    const [from_id, to_id] = [Math.min(p.fromId, p.toId), Math.max(p.fromId, p.toId)];
    const before = (await trx('travel').where({ from_id, to_id }).first('minutes'))?.minutes ?? 0;
    requireSeen(p.was, before, `${before} minutes`);
    await trx('travel').where({ from_id, to_id }).del();
    if (p.minutes > 0) await trx('travel').insert({ from_id, to_id, minutes: p.minutes });
    return { result: { minutes: p.minutes }, entity: 'place', entityId: p.fromId };
  });
}

/** Says how many instruments lie on the bench together at a place; 0 forgets it. */
export async function setBenchSpace(
  db: Knex,
  acting: Acting,
  p: { placeId: number; instruments: number; was?: string | undefined },
): Promise<{ benchSpace: number | null }> {
  return change(db, acting, 'place.bench-space', p, async (trx) => {
    const benchSpace = p.instruments > 0 ? p.instruments : null;
    const place = await trx('place').where({ id: p.placeId }).first('bench_space');
    if (!place) throw notFound('This place');
    requireSeen(p.was, place.bench_space ?? 0, place.bench_space === null ? 'room for all' : `${place.bench_space}`);
    await trx('place').where({ id: p.placeId }).update({ bench_space: benchSpace });
    return { result: { benchSpace }, entity: 'place', entityId: p.placeId };
  });
}

export interface Away {
  personId: number;
  person: string;
  on: LocalDate;
  why: string;
}

/** Who is away on which of the days ahead. */
export async function loadAway(db: Knex, from: LocalDate): Promise<Away[]> {
  const rows = await db('availability_exception as e')
    .join('person as p', 'p.id', 'e.person_id')
    .where('e.on_day', '>=', from)
    .orderBy('e.on_day')
    .select('e.person_id', 'e.on_day', 'e.why', 'p.name');
  return rows.map((r) => ({ personId: r.person_id, person: r.name, on: r.on_day, why: r.why }));
}
