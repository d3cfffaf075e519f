import type { Knex } from 'knex';
import type { LocalDate } from '../../core/dates';
import { among } from '../db/among';
import { type Acting, change, insertId } from '../db/change';
import { notFound } from '../errors';
import { refreshStates } from '../fleet/state';
import { instrumentsNamed } from './named';

interface NewConcert {
  name: string;
  on: LocalDate;
  placeId: number | null;
  /** The calendar it comes from; empty where somebody enters it. */
  source: string;
  instrumentIds: readonly number[];
}

export interface ConcertAhead {
  id: number;
  name: string;
  on: LocalDate;
  place: string | null;
  source: string;
  /** How many instruments play. */
  instruments: number;
}

/** Concerts from a day on, the next first. */
export async function loadConcerts(db: Knex, from: LocalDate): Promise<ConcertAhead[]> {
  const rows: { id: number; name: string; on_day: string; source: string | null; place: string | null; n: number }[] =
    await db('concert as c')
      .leftJoin('place as p', 'p.id', 'c.place_id')
      .leftJoin('concert_instrument as x', 'x.concert_id', 'c.id')
      .where('c.on_day', '>=', from)
      .groupBy('c.id')
      .orderBy('c.on_day')
      .select('c.id', 'c.name', 'c.on_day', 'c.source', 'p.name as place')
      .count({ n: 'x.instrument_id' });
  return rows.map((c) => ({
    id: c.id,
    name: c.name,
    on: c.on_day,
    place: c.place,
    source: c.source ?? '',
    instruments: Number(c.n),
  }));
}

export async function insertConcert(trx: Knex, c: NewConcert): Promise<number> {
  const id = await insertId(trx, 'concert', { name: c.name, on_day: c.on, place_id: c.placeId, source: c.source });
  for (const instrument_id of new Set(c.instrumentIds))
    await trx('concert_instrument').insert({ concert_id: id, instrument_id });
  return id;
}

/** Removes concerts; returns the instruments that were to play. */
export async function removeConcerts(trx: Knex, ids: readonly number[]): Promise<number[]> {
  const players: number[] = await trx('concert_instrument')
    .whereIn('concert_id', among(trx, ids))
    .pluck('instrument_id');
  await trx('concert_instrument').whereIn('concert_id', among(trx, ids)).del();
  await trx('concert').whereIn('id', among(trx, ids)).del();
  return players;
}

/**
 * Enters a concert; strings that would fall due about it are brought forward at once.
 * @param p.who tags, or what instruments are held by, with commas between
 * @throws UserError `who` with the words that are neither
 */
export async function addConcert(
  db: Knex,
  acting: Acting,
  p: { name: string; on: LocalDate; placeId: number | null; who: string },
  timeZone: string,
): Promise<{ concertId: number; instruments: number }> {
  return change(db, acting, 'concert.add', p, async (trx) => {
    if (p.placeId !== null && !(await trx('place').where({ id: p.placeId }).first())) throw notFound('This place');
    const ids = await instrumentsNamed(trx, p.who);
    const concertId = await insertConcert(trx, { ...p, source: '', instrumentIds: ids });
    await refreshStates(trx, ids, { now: acting.now, timeZone });
    return { result: { concertId, instruments: ids.length }, entity: 'concert', entityId: concertId };
  });
}

/** Takes a concert off; due dates it brought forward go back. */
export async function removeConcert(
  db: Knex,
  acting: Acting,
  p: { id: number },
  timeZone: string,
): Promise<{ removed: true }> {
  return change(db, acting, 'concert.remove', p, async (trx) => {
    if (!(await trx('concert').where({ id: p.id }).first())) throw notFound('This concert');
    await refreshStates(trx, await removeConcerts(trx, [p.id]), { now: acting.now, timeZone });
    return { result: { removed: true as const }, entity: 'concert', entityId: p.id };
  });
}
