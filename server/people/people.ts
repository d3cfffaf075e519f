import type { Knex } from 'knex';
import { addDays, type LocalDate } from '../../core/dates';
import type { Family } from '../../core/instruments/build';
import { LEVEL } from '../../core/planning/ladder';
import type { Lead } from '../../core/procedures/led';
import { type Acting, change } from '../db/change';
import { must } from '../db/must';
import { untilWritten } from '../db/written';
import { notFound } from '../errors';
import { loadSignOffs } from '../plan/signOffs';

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
  const next = await untilWritten(
    db,
    `concert/${today}`,
    async () => (await db('concert').where('on_day', '>=', today).orderBy('on_day').first('on_day'))?.on_day ?? null,
  );
  return next ?? addDays(today, HORIZON_DAYS);
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

/** How somebody is led at the bench, from now on and on every device. */
export async function setLead(db: Knex, acting: Acting, p: { lead: Lead }): Promise<{ lead: Lead }> {
  return change(db, acting, 'person.lead', p, async (trx) => {
    await trx('person').where({ id: acting.personId }).update({ lead: p.lead });
    return { result: { lead: p.lead }, entity: 'person', entityId: acting.personId };
  });
}

/** How somebody is led: as they chose; else who works alone by phase, and who still learns string by string. */
export async function leadOf(db: Knex, personId: number, family: Family): Promise<Lead> {
  const person = must(await db('person').where({ id: personId }).first());
  if (person.lead) return person.lead;
  const level = (await loadSignOffs(db))(person, family);
  return level >= LEVEL.alone ? 'phase' : 'string';
}
