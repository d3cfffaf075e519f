import type { Knex } from 'knex';
import { addDays, type LocalDate } from '../../core/dates';
import type { Family } from '../../core/instruments/build';
import { type Acting, change, insertId } from '../db/change';
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
export async function addAvailability(
  db: Knex,
  acting: Acting,
  p: { personId: number; placeId: number; weekday: number; minutes: number; starts: string },
): Promise<{ availabilityId: number }> {
  return change(db, acting, 'availability.add', p, async (trx) => {
    if (!(await trx('person').where({ id: p.personId }).first())) throw notFound('This person');
    if (!(await trx('place').where({ id: p.placeId }).first())) throw notFound('This place');
    const same = await trx('availability').where({ person_id: p.personId, weekday: p.weekday });
    const begins = (text: string) => Number(text.slice(0, 2)) * 60 + Number(text.slice(3));
    const clash = same.find(
      (a) => begins(a.starts) < begins(p.starts) + p.minutes && begins(p.starts) < begins(a.starts) + a.minutes,
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
    if ((await trx('availability').where({ id: p.id }).del()) === 0) throw notFound('This time');
    return { result: { removed: true as const }, entity: 'availability', entityId: p.id };
  });
}

/** Says that somebody is away on a day, or, without a reason, that they are there after all. */
export async function setAway(
  db: Knex,
  acting: Acting,
  p: { personId: number; on: LocalDate; why: string },
): Promise<{ away: boolean }> {
  return change(db, acting, 'availability.away', p, async (trx) => {
    if (!(await trx('person').where({ id: p.personId }).first())) throw notFound('This person');
    const row = { person_id: p.personId, on_day: p.on };
    await trx('availability_exception').where(row).del();
    if (p.why) await trx('availability_exception').insert({ ...row, why: p.why });
    return { result: { away: p.why !== '' }, entity: 'person', entityId: p.personId };
  });
}

/** Says how far somebody is with a family: 0 not yet, 1 under supervision, 2 alone, 3 also bowed and difficult ones. */
export async function setSignOff(
  db: Knex,
  acting: Acting,
  p: { personId: number; family: Family; level: number },
): Promise<{ level: number }> {
  return change(db, acting, 'sign-off.set', p, async (trx) => {
    if (!(await trx('person').where({ id: p.personId }).first())) throw notFound('This person');
    const row = { person_id: p.personId, family: p.family };
    await trx('sign_off')
      .insert({ ...row, level: p.level })
      .onConflict(['person_id', 'family'])
      .merge();
    return { result: { level: p.level }, entity: 'person', entityId: p.personId };
  });
}

/** Says that an instrument cannot be had for some days: a loan, a lesson week, a tour. */
export async function setBusy(
  db: Knex,
  acting: Acting,
  p: { tag: string; from: LocalDate; to: LocalDate; why: string },
): Promise<{ busyId: number }> {
  return change(db, acting, 'instrument.busy', p, async (trx) => {
    const instrument = await trx('instrument').where({ tag: p.tag }).first();
    if (!instrument) throw notFound(`“${p.tag}”`);
    if (p.to < p.from) throw refused('days', 'The other way round?', 'The last day lies before the first.');
    const busyId = await insertId(trx, 'instrument_busy', {
      instrument_id: instrument.id,
      from_on: p.from,
      to_on: p.to,
      why: p.why,
    });
    return { result: { busyId }, entity: 'instrument', entityId: instrument.id };
  });
}

export interface Shift {
  personId: number;
  placeId: number;
  on: LocalDate;
  minutes: number;
  starts: string;
}

/** Monday is 1. */
const weekdayOf = (day: LocalDate): number => ((new Date(`${day}T00:00:00Z`).getUTCDay() + 6) % 7) + 1;

/** Shifts of the days ahead: what recurs, without the days somebody is away. */
export async function shiftsAhead(db: Knex, from: LocalDate, days: number): Promise<Shift[]> {
  const weekly = await db('availability').orderBy(['person_id', 'weekday', 'starts']);
  const away = new Set(
    (await db('availability_exception').where('on_day', '>=', from)).map((e) => `${e.person_id}/${e.on_day}`),
  );
  const shifts: Shift[] = [];
  for (let d = 0; d < days; d++) {
    const on = addDays(from, d);
    for (const a of weekly)
      if (a.weekday === weekdayOf(on) && !away.has(`${a.person_id}/${on}`))
        shifts.push({ personId: a.person_id, placeId: a.place_id, on, minutes: a.minutes, starts: a.starts });
  }
  return shifts;
}
