import type { Knex } from 'knex';
import { addDays, type LocalDate } from '../../core/dates';
import { type Acting, change } from '../db/change';
import { notFound } from '../errors';

/** Where a person works today. */
export async function moveDesk(db: Knex, acting: Acting, p: { placeId: number }): Promise<{ placeId: number }> {
  return change(db, acting, 'person.desk', p, async (trx) => {
    const place = await trx('place').where({ id: p.placeId }).first();
    if (!place) throw notFound('This place');
    await trx('person').where({ id: acting.personId }).update({ place_id: p.placeId });
    return { result: { placeId: p.placeId }, entity: 'person', entityId: acting.personId };
  });
}

/** How far the horizon looks when nobody has set it and no concert is ahead. */
const HORIZON_DAYS = 28;

/** How far somebody looks ahead: to their own marker, else the next concert, else some weeks. */
export async function horizonOf(
  db: Knex,
  person: { horizonOn: LocalDate | null },
  today: LocalDate,
): Promise<LocalDate> {
  if (person.horizonOn && person.horizonOn >= today) return person.horizonOn;
  const concert = await db('concert').where('on_day', '>=', today).orderBy('on_day').first('on_day');
  return concert?.on_day ?? addDays(today, HORIZON_DAYS);
}

/** The “by when” marker of a person, shared by all areas. */
export async function setHorizon(
  db: Knex,
  acting: Acting,
  p: { horizonOn: LocalDate },
): Promise<{ horizonOn: LocalDate }> {
  return change(db, acting, 'person.horizon', p, async (trx) => {
    await trx('person').where({ id: acting.personId }).update({ horizon_on: p.horizonOn });
    return { result: { horizonOn: p.horizonOn }, entity: 'person', entityId: acting.personId };
  });
}
