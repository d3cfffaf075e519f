import type { Knex } from 'knex';
import type { LocalDate } from '../../core/dates';
import { type Acting, change, insertId } from '../db/change';
import { conflict, notFound, refused } from '../errors';

export interface PlanItem {
  instrumentId: number;
  tag: string;
  personId: number;
  placeId: number;
  on: LocalDate;
  minutes: number;
  locked: boolean;
}

export interface PublishedPlan {
  id: number;
  by: string;
  at: number;
  cost: number;
  bound: number | null;
  items: PlanItem[];
}

/** The plan that is in force; null before the first. */
export async function latestPlan(db: Knex): Promise<PublishedPlan | null> {
  const plan = await db('plan as x')
    .join('person as p', 'p.id', 'x.person_id')
    .orderBy('x.id', 'desc')
    .first('x.*', 'p.name');
  if (!plan) return null;
  const items = await db('plan_item as i')
    .join('instrument as t', 't.id', 'i.instrument_id')
    .where('i.plan_id', plan.id)
    .orderBy(['i.on_day', 'i.person_id', 't.tag'])
    .select('i.*', 't.tag');
  return {
    id: plan.id,
    by: plan.name,
    at: plan.published_at,
    cost: plan.cost,
    bound: plan.bound,
    items: items.map((i) => ({
      instrumentId: i.instrument_id,
      tag: i.tag,
      personId: i.person_id,
      placeId: i.place_id,
      on: i.on_day,
      minutes: i.minutes,
      locked: Boolean(i.locked),
    })),
  };
}

/** What somebody is told of a new plan. */
export interface Told {
  person: string;
  jobs: number;
  added: string[];
  gone: string[];
}

/**
 * Publishes a plan in the place of the one in force.
 * @returns who is told what: jobs that are new for them or on another day, and those they do not have any more
 * @throws UserError `conflict` when another plan was published since this one was begun
 */
export async function publishPlan(
  db: Knex,
  acting: Acting,
  p: {
    basedOn: number | null;
    cost: number;
    bound: number | null;
    items: {
      instrumentId: number;
      personId: number;
      placeId: number;
      on: LocalDate;
      minutes: number;
      locked: boolean;
    }[];
  },
): Promise<{ planId: number; told: Told[] }> {
  return change(db, acting, 'plan.publish', p, async (trx) => {
    const before = await latestPlan(trx);
    if ((before?.id ?? null) !== p.basedOn)
      throw conflict(`${before?.by ?? 'Somebody'} has published a plan since you began. Reload to start from it.`, {
        currentPlan: before?.id ?? null,
      });
    if (new Set(p.items.map((i) => i.instrumentId)).size !== p.items.length)
      throw refused('twice', 'An instrument twice', 'Each instrument is in the plan once.');
    const planId = await insertId(trx, 'plan', {
      person_id: acting.personId,
      published_at: acting.now,
      cost: p.cost,
      bound: p.bound,
    });
    for (const i of p.items) {
      if (!(await trx('instrument').where({ id: i.instrumentId }).first())) throw notFound('An instrument of the plan');
      await trx('plan_item').insert({
        plan_id: planId,
        instrument_id: i.instrumentId,
        person_id: i.personId,
        place_id: i.placeId,
        on_day: i.on,
        minutes: i.minutes,
        locked: i.locked,
      });
    }
    return { result: { planId, told: await toldOf(trx, before, planId) }, entity: 'plan', entityId: planId };
  });
}

async function toldOf(trx: Knex, before: PublishedPlan | null, planId: number): Promise<Told[]> {
  const now = await latestPlan(trx);
  const people = await trx('person').select('id', 'name');
  const key = (i: PlanItem) => `${i.tag}/${i.on}`;
  return people.flatMap((person): Told[] => {
    const own = (plan: PublishedPlan | null) => (plan?.items ?? []).filter((i) => i.personId === person.id);
    const [was, is] = [own(before), own(now?.id === planId ? now : null)];
    const old = new Set(was.map(key));
    const fresh = new Set(is.map(key));
    const added = is.filter((i) => !old.has(key(i))).map((i) => i.tag);
    const gone = was.filter((i) => !fresh.has(key(i)) && !added.includes(i.tag)).map((i) => i.tag);
    return added.length + gone.length > 0 ? [{ person: person.name, jobs: is.length, added, gone }] : [];
  });
}
