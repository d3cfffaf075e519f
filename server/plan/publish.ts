import type { Knex } from 'knex';
import type { Publish } from '../../contract/plan';
import { addDays, type LocalDate, sayWeekday } from '../../core/dates';
import { type PersonChange, planChanges } from '../../core/planning/changes';
import { brokenRules, costOf } from '../../core/planning/check';
import { type Plan, supervisedJobs } from '../../core/planning/model';
import { shiftOf } from '../../core/planning/shifts';
import { type Acting, change, insertId } from '../db/change';
import { conflict, notFound, refused } from '../errors';
import { latestPlan, type PublishedPlan } from './plans';
import { planInput } from './problem';

/**
 * Publishes a plan in the place of the one in force.
 * @returns who is told what of the days ahead, and what was done meanwhile
 * @throws UserError `conflict` when another plan was published since this one was begun
 */
export async function publishPlan(
  db: Knex,
  acting: Acting,
  p: Publish,
  at: { today: LocalDate },
): Promise<{ planId: number; told: PersonChange[]; done: string[] }> {
  return change(db, acting, 'plan.publish', p, async (trx) => {
    const before = await latestPlan(trx);
    if ((before?.id ?? null) !== p.basedOn)
      throw conflict(`${before?.by ?? 'Someone'} has published a plan since you started. Reload to start from it.`, {
        currentPlan: before?.id ?? null,
      });
    if (new Set(p.items.map((i) => `${i.instrumentId}/${i.kind}`)).size !== p.items.length)
      throw refused(
        'twice',
        'A task is in the plan twice',
        'A task is in the plan twice. Nothing was published; reload and try again.',
      );
    const { items, done, cost, supervisors } = await stillHolds(trx, p.items, { today: at.today, now: acting.now });
    const planId = await insertId(trx, 'plan', {
      person_id: acting.personId,
      published_at: acting.now,
      // Counted here: what a page says of it is not believed, and a bound is not known to hold here.
      cost,
      bound: null,
    });
    await trx.batchInsert(
      'plan_job',
      items.map((i) => ({
        plan_id: planId,
        instrument_id: i.instrumentId,
        kind: i.kind,
        person_id: i.personId,
        place_id: i.placeId,
        on_day: i.on,
        starts_at: i.startsAt,
        minutes: i.minutes,
        locked: i.locked,
        learner_id: i.learnerId,
        supervisor_id: supervisors.get(`${i.instrumentId}/${i.kind}`) ?? null,
      })),
      80,
    );
    // Whatever the night proposed was for the plan before.
    await trx('plan_proposal').where({ status: 'new' }).update({ status: 'passed' });
    const ahead = (plan: PublishedPlan | null) => (plan?.items ?? []).filter((i) => i.on >= at.today);
    const told = planChanges(
      ahead(before).filter((i) => !done.includes(i.tag)),
      ahead(await latestPlan(trx)),
    );
    return { result: { planId, told, done }, entity: 'plan', entityId: planId };
  });
}

/** How long a plan may be worked on before it is published. */
const PATIENCE_MS = 2 * 3_600_000;

type NewItem = Publish['items'][number];

/**
 * Whether a plan still holds by what is known now: somebody may be away since, a delivery late, an instrument lent.
 * @returns what is still to do of it, the tags of what is done by now, what it costs by the programme's weights, and who
 *   stands by for what, by `instrument/kind`
 * @throws UserError `plan-broken` with every rule it breaks
 */
async function stillHolds(
  trx: Knex,
  items: readonly NewItem[],
  { today, now }: { today: LocalDate; now: number },
): Promise<{ items: NewItem[]; done: string[]; cost: number; supervisors: Map<string, number> }> {
  // A session that has begun since the plan was begun holds as it was; one long over does not.
  const input = await planInput(trx, { today, now: now - PATIENCE_MS });
  const jobAt = new Map(input.jobs.map((j, i) => [j.key, i]));
  const shiftAt = new Map(input.shifts.map((s, i) => [s.id, i]));
  const nowhere = input.shifts.length;
  const plan: Plan = new Int32Array(input.jobs.length).fill(-1);
  const kept = items.filter((i) => {
    const job = jobAt.get(`${i.instrumentId}/${i.kind}`);
    if (job === undefined) return false;
    plan[job] = shiftAt.get(shiftOf(input.shifts, i)?.id ?? '') ?? nowhere;
    return true;
  });
  const problem = { ...input.problem, jobs: input.problem.jobs.map((j) => ({ ...j, locked: false })) };
  const day = (n: number) => sayWeekday(addDays(today, n));
  const broken = brokenRules(problem, plan, {
    job: (n) => input.jobs[n]?.tag ?? '',
    person: (n) => input.people[n]?.name ?? '',
    site: (n) => input.places[n]?.name ?? '',
    sku: (n) => input.skus[n] ?? '',
    day,
  });
  if (broken.length > 0) {
    const says = broken.map((b) =>
      b.rule === 'unknown' ? `${input.jobs[b.jobs[0] as number]?.tag}: nobody is working then any more.` : b.says,
    );
    throw conflict(
      `Something has changed since you started, and this plan no longer works. Reload to repair it. ${says.slice(0, 3).join(' ')}`,
      { broken: says },
    );
  }
  const tags = new Map((await trx('instrument').select('id', 'tag')).map((r) => [r.id as number, r.tag as string]));
  const done = items.filter((i) => !kept.includes(i)).map((i) => tags.get(i.instrumentId) ?? '');
  if (done.includes('')) throw notFound('An instrument in the plan');
  const supervisors = new Map(
    supervisedJobs(problem, plan).flatMap(({ job, by }): [string, number][] => {
      const [about, shift] = [input.jobs[job], input.shifts[by]];
      return about && shift ? [[about.key, shift.personId]] : [];
    }),
  );
  return { items: kept, done, cost: costOf(input.problem, plan).total, supervisors };
}
