import type { Knex } from 'knex';
import type { Aside } from '../../contract/plan';
import type { LocalDate } from '../../core/dates';
import type { PlanKind } from '../../core/planning/kinds';

export interface PlanItem {
  instrumentId: number;
  kind: PlanKind;
  tag: string;
  personId: number;
  placeId: number;
  on: LocalDate;
  /** When its shift begins; null in plans from before that was kept. */
  startsAt: number | null;
  minutes: number;
  locked: boolean;
  /** Who stands beside and learns. */
  learnerId: number | null;
  /** Who stands by while somebody works under supervision. */
  supervisorId: number | null;
  /** Whoever had it said that it will not fit, or was done elsewhere. */
  aside: Aside['why'];
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
  const items = await db('plan_job as i')
    .join('instrument as t', 't.id', 'i.instrument_id')
    .whereNull('t.retired_on')
    .where('i.plan_id', plan.id)
    .orderBy(['i.on_day', 'i.person_id', 'i.starts_at', 't.tag'])
    .select('i.*', 't.tag');
  return {
    id: plan.id,
    by: plan.name,
    at: plan.published_at,
    cost: plan.cost,
    bound: plan.bound,
    items: items.map((i) => ({
      instrumentId: i.instrument_id,
      kind: i.kind,
      tag: i.tag,
      personId: i.person_id,
      placeId: i.place_id,
      on: i.on_day,
      startsAt: i.starts_at,
      minutes: i.minutes,
      locked: Boolean(i.locked),
      learnerId: i.learner_id,
      supervisorId: i.supervisor_id,
      aside: i.aside as Aside['why'],
    })),
  };
}
