import type { Knex } from 'knex';
import type { Once, Swap, Weekly } from '../../contract/plan';
import { count } from '../../core/count';
import { addDays, daysBetween, type LocalDate, sayWeekday, weekdayOf } from '../../core/dates';
import { clockOf, minuteOf } from '../../core/planning/shifts';
import { type Acting, change, insertId, requireOwn } from '../db/change';
import { insertAll } from '../db/insertAll';
import { requireSeen } from '../db/seen';
import { conflict, notFound, refused } from '../errors';
import { holidaysAhead } from './holidays';

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

function requireBeforeMidnight(p: { starts: string; minutes: number }): void {
  if (minuteOf(p.starts) + p.minutes > DAY_MINUTES)
    throw refused(
      'past-midnight',
      'Past midnight',
      'Hours cannot run past midnight. Enter the part before midnight, and the rest on the next day.',
    );
}

/** Adds a time somebody works every week. */
export async function addAvailability(db: Knex, acting: Acting, p: Weekly): Promise<{ availabilityId: number }> {
  return change(db, acting, 'availability.add', p, async (trx) => {
    await requireOwn(trx, acting, 'availability.add', p.personId);
    if (!(await trx('person').where({ id: p.personId }).first())) throw notFound('This person');
    if (!(await trx('place').where({ id: p.placeId }).first())) throw notFound('This place');
    requireBeforeMidnight(p);
    const same = await trx('availability').where({ person_id: p.personId, weekday: p.weekday });
    const clash = same.find(
      (a) => minuteOf(a.starts) < minuteOf(p.starts) + p.minutes && minuteOf(p.starts) < minuteOf(a.starts) + a.minutes,
    );
    if (clash) throw refused('clash', 'Already working elsewhere', 'This person already works elsewhere at that time.');
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
    if (!row) throw notFound('These hours');
    await requireOwn(trx, acting, 'availability.remove', row.person_id);
    await trx('availability').where({ id: p.id }).del();
    return { result: { removed: true as const }, entity: 'availability', entityId: p.id };
  });
}

export interface AwayDays {
  personId: number;
  on: LocalDate;
  /** The last day, where there are several. */
  to?: LocalDate | undefined;
  /** A part of each day; empty: all of it. */
  fromTime?: string;
  toTime?: string;
  /** Empty: they are there after all. */
  why: string;
}

/** Says that somebody is away on some days, or a part of each; without a reason, that they are there after all. */
export async function setAway(db: Knex, acting: Acting, p: AwayDays): Promise<{ away: boolean }> {
  return change(db, acting, 'availability.away', p, async (trx) => {
    await requireOwn(trx, acting, 'availability.away', p.personId);
    if (!(await trx('person').where({ id: p.personId }).first())) throw notFound('This person');
    const to = p.to ?? p.on;
    const part = { from_time: p.fromTime ?? '', to_time: p.toTime ?? '' };
    const there = () =>
      trx('availability_exception').where({ person_id: p.personId }).whereBetween('on_day', [p.on, to]);
    // What somebody else has said of a day is not written over by who has not seen it.
    const other =
      p.why === ''
        ? undefined
        : await there()
            .whereNot({ why: p.why, ...part })
            .orderBy('on_day')
            .first();
    if (other)
      throw conflict(
        `Already away then: ${other.why}, ${sayWeekday(other.on_day)}${other.from_time && `, ${other.from_time} to ${other.to_time}`}. Undo that first, or leave the day out.`,
        { was: other.why },
      );
    await there().del();
    const days = p.why === '' ? 0 : daysBetween(p.on, to) + 1;
    await insertAll(
      trx,
      'availability_exception',
      Array.from({ length: days }, (_, d) => ({
        person_id: p.personId,
        on_day: addDays(p.on, d),
        why: p.why,
        ...part,
      })),
    );
    return { result: { away: p.why !== '' }, entity: 'person', entityId: p.personId };
  });
}

/** Hours of somebody on one day only. */
export async function addOnce(db: Knex, acting: Acting, p: Once): Promise<{ onceId: number }> {
  return change(db, acting, 'availability.once', p, async (trx) => {
    await requireOwn(trx, acting, 'availability.once', p.personId);
    if (!(await trx('person').where({ id: p.personId }).first())) throw notFound('This person');
    if (!(await trx('place').where({ id: p.placeId }).first())) throw notFound('This place');
    requireBeforeMidnight(p);
    const there = (await piecesOn(trx, p.on)).filter((x) => x.personId === p.personId);
    if (there.some((x) => x.from < minuteOf(p.starts) + p.minutes && minuteOf(p.starts) < x.to))
      throw refused('clash', 'Already working then', 'This person already works at that time.');
    const { personId: person_id, placeId: place_id, on: on_day, starts, minutes } = p;
    const row = { person_id, place_id, on_day, starts, minutes, instead: false, why: '', together: acting.key };
    const onceId = await insertId(trx, 'availability_once', row);
    return { result: { onceId }, entity: 'availability_once', entityId: onceId };
  });
}

/** Two people do each other's hours on a day, in the place of their own. */
export async function swapPeople(db: Knex, acting: Acting, p: Swap): Promise<{ swapped: true }> {
  return change(db, acting, 'availability.swap', p, async (trx) => {
    const people = await trx('person').whereIn('id', [p.personId, p.otherId]).whereNull('retired_on');
    if (people.length !== 2) throw notFound('One of the two people');
    await requireOwn(trx, acting, 'availability.swap', p.personId);
    const pieces = await piecesOn(trx, p.on);
    const of = (id: number) => pieces.filter((x) => x.personId === id);
    if (of(p.personId).length === 0 || of(p.otherId).length === 0)
      throw refused(
        'nothing-to-swap',
        'One of them does not work that day',
        'To swap, both people need hours on that day. If one stands in for the other, add hours for that day only.',
      );
    await trx('availability_once').where({ on_day: p.on }).whereIn('person_id', [p.personId, p.otherId]).del();
    const name = (id: number) => people.find((x) => x.id === id)?.name ?? '';
    const rows = (from: number, to: number) =>
      of(from).map((x) => ({
        person_id: to,
        place_id: x.placeId,
        on_day: p.on,
        starts: clockOf(x.from),
        minutes: x.to - x.from,
        instead: true,
        why: `for ${name(from)}`,
        together: acting.key,
      }));
    await insertAll(trx, 'availability_once', [...rows(p.personId, p.otherId), ...rows(p.otherId, p.personId)]);
    return { result: { swapped: true as const }, entity: 'person', entityId: p.personId };
  });
}

/** Takes back hours of one day, with all that was entered with them. */
export async function removeOnce(db: Knex, acting: Acting, p: { id: number }): Promise<{ removed: true }> {
  return change(db, acting, 'availability.remove', { once: p.id }, async (trx) => {
    const row = await trx('availability_once').where({ id: p.id }).first();
    if (!row) throw notFound('These hours');
    await requireOwn(trx, acting, 'availability.remove', row.person_id);
    await trx('availability_once').where({ together: row.together }).del();
    return { result: { removed: true as const }, entity: 'availability_once', entityId: p.id };
  });
}

export interface OnceHours {
  id: number;
  personId: number;
  person: string;
  place: string;
  on: LocalDate;
  starts: string;
  minutes: number;
  why: string;
}

/** Hours of one day only, of the days ahead. */
export async function loadOnce(db: Knex, from: LocalDate): Promise<OnceHours[]> {
  const rows = await db('availability_once as o')
    .join('person as p', 'p.id', 'o.person_id')
    .join('place as l', 'l.id', 'o.place_id')
    .where('o.on_day', '>=', from)
    .orderBy(['o.on_day', 'o.starts', 'o.id'])
    .select('o.*', 'p.name as person', 'l.name as place');
  return rows.map((r) => ({
    id: r.id,
    personId: r.person_id,
    person: r.person,
    place: r.place,
    on: r.on_day,
    starts: r.starts,
    minutes: r.minutes,
    why: r.why,
  }));
}

/** Hours at a place within a day, in minutes of the day. */
export interface Piece {
  /** What it comes from: a weekly time, or hours of that day alone. */
  id: string;
  personId: number;
  placeId: number;
  from: number;
  to: number;
}

/** Everybody's hours by day: what recurs, or what stands in its place, without the times they are away. */
export async function piecesOf(db: Knex, from: LocalDate, until: LocalDate): Promise<(on: LocalDate) => Piece[]> {
  const weekly = await db('availability').orderBy(['person_id', 'weekday', 'starts']);
  const once = await db('availability_once').whereBetween('on_day', [from, until]).orderBy(['person_id', 'starts']);
  const away = new Map(
    (await db('availability_exception').whereBetween('on_day', [from, until])).map((e) => [
      `${e.person_id}/${e.on_day}`,
      e.from_time === '' ? { from: 0, to: 2 * DAY_MINUTES } : { from: minuteOf(e.from_time), to: minuteOf(e.to_time) },
    ]),
  );
  const holidays = await holidaysAhead(db, from, until);
  return (on) => {
    const weekday = weekdayOf(on);
    const closed = holidays.filter((h) => h.from <= on && on <= h.to);
    const today = once.filter((o) => o.on_day === on);
    const swapped = new Set(today.flatMap((o) => (o.instead ? [o.person_id] : [])));
    const rows = [
      ...weekly
        .filter(
          (a) =>
            a.weekday === weekday &&
            !swapped.has(a.person_id) &&
            !closed.some((h) => h.placeId === null || h.placeId === a.place_id),
        )
        .map((a) => ({ ...a, id: String(a.id) })),
      // Said for this very day, they count in holidays too.
      ...today.map((o) => ({ ...o, id: `o${o.id}` })),
    ];
    return rows
      .flatMap((a): Piece[] => {
        const piece = {
          id: a.id,
          personId: a.person_id,
          placeId: a.place_id,
          from: minuteOf(a.starts),
          to: minuteOf(a.starts) + a.minutes,
        };
        const gone = away.get(`${a.person_id}/${on}`);
        if (!gone || gone.to <= piece.from || piece.to <= gone.from) return [piece];
        return [
          { ...piece, to: Math.min(piece.to, gone.from) },
          { ...piece, id: `${piece.id}b`, from: Math.max(piece.from, gone.to) },
        ].filter((x) => x.from < x.to);
      })
      .sort((a, b) => a.personId - b.personId || a.from - b.from);
  };
}

const piecesOn = async (db: Knex, on: LocalDate): Promise<Piece[]> => (await piecesOf(db, on, on))(on);

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
    requireSeen(p.was, before, count(before, 'minute'));
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
    requireSeen(p.was, place.bench_space ?? 0, place.bench_space === null ? 'no limit' : `${place.bench_space}`);
    await trx('place').where({ id: p.placeId }).update({ bench_space: benchSpace });
    return { result: { benchSpace }, entity: 'place', entityId: p.placeId };
  });
}

export interface Away {
  personId: number;
  person: string;
  from: LocalDate;
  to: LocalDate;
  /** A part of each day; empty: all of it. */
  fromTime: string;
  toTime: string;
  why: string;
}

/** Who is away on which of the days ahead: days that follow on each other for the same reason are one. */
export async function loadAway(db: Knex, from: LocalDate): Promise<Away[]> {
  const rows = await db('availability_exception as e')
    .join('person as p', 'p.id', 'e.person_id')
    .where('e.on_day', '>=', from)
    .orderBy(['e.person_id', 'e.on_day'])
    .select('e.*', 'p.name');
  const spans: Away[] = [];
  for (const r of rows) {
    const last = spans.at(-1);
    const goesOn =
      last &&
      last.personId === r.person_id &&
      last.why === r.why &&
      last.fromTime === r.from_time &&
      last.toTime === r.to_time &&
      addDays(last.to, 1) === r.on_day;
    if (goesOn) last.to = r.on_day;
    else
      spans.push({
        personId: r.person_id,
        person: r.name,
        from: r.on_day,
        to: r.on_day,
        fromTime: r.from_time,
        toTime: r.to_time,
        why: r.why,
      });
  }
  return spans.sort((a, b) => (a.from < b.from ? -1 : a.from > b.from ? 1 : 0));
}

/** Says when the last way back leaves a place; empty forgets it. Whoever is based elsewhere works there until then. */
export async function setLastWay(
  db: Knex,
  acting: Acting,
  p: { placeId: number; leaves: string; was?: string | undefined },
): Promise<{ leaves: string }> {
  return change(db, acting, 'place.last-way', p, async (trx) => {
    const place = await trx('place').where({ id: p.placeId }).first('last_way');
    if (!place) throw notFound('This place');
    requireSeen(p.was, place.last_way, place.last_way || 'at any time');
    await trx('place').where({ id: p.placeId }).update({ last_way: p.leaves });
    return { result: { leaves: p.leaves }, entity: 'place', entityId: p.placeId };
  });
}
