import { Cron } from 'croner';
import type { Knex } from 'knex';
import { z } from 'zod';
import type { LocalDate } from '../../core/dates';
import { brokenRules, costOf } from '../../core/planning/check';
import { PLAN_KINDS } from '../../core/planning/kinds';
import type { Plan } from '../../core/planning/model';
import { repaired } from '../../core/planning/repair';
import { runApart } from '../apart';
import { localDate } from '../clock';
import { type Acting, answered, change, insertId } from '../db/change';
import * as columns from '../db/columns';
import { must } from '../db/must';
import { notFound, UserError } from '../errors';
import { log } from '../log';
import { loadProgramme } from '../programme/programme';
import type { NightAnswer, NightTask } from './night.worker';
import type { PlanItem } from './plans';
import { type PlanInput, planInput } from './problem';

/** Local hours in which the server plans by itself. */
const NIGHT = { from: 2, to: 5 };
const EVERY_TEN_MINUTES = '*/10 * * * *';
const MOVES = 6_000_000;
const BOUND_SECONDS = 20;
const POLISH_SECONDS = 20;
const LONGEST_MS = 5 * 60_000;

export interface Proposal {
  id: number;
  madeAt: number;
  onDay: LocalDate;
  /** The published plan it was made for. */
  basedOn: number | null;
  cost: number;
  /** What the plan in force costs as it stands by then. */
  costBefore: number;
  bound: number | null;
  items: (Pick<PlanItem, 'instrumentId' | 'kind' | 'personId' | 'placeId' | 'on'> & { startsAt: number })[];
}

const proposalItems = columns.columnOf<Proposal['items']>(
  'a proposal of the night',
  z.array(
    z.looseObject({
      instrumentId: z.int(),
      kind: z.enum(PLAN_KINDS),
      personId: z.int(),
      placeId: z.int(),
      on: z.string(),
    }),
  ),
);

/** The latest proposal that nobody has answered, for the plan that is in force. */
export async function openProposal(db: Knex, planId: number | null): Promise<Proposal | null> {
  const row = await db('plan_proposal').where({ status: 'new' }).orderBy('id', 'desc').first();
  if (!row || (row.based_on ?? null) !== planId) return null;
  return {
    id: row.id,
    madeAt: row.made_at,
    onDay: row.on_day,
    basedOn: row.based_on,
    cost: row.cost,
    costBefore: row.cost_before,
    bound: row.bound,
    items: proposalItems.read(row.items),
  };
}

/** The plan in force as it is now, mended where it no longer holds. */
export function planInForce(input: Pick<PlanInput, 'problem'>): Plan {
  return repaired(
    input.problem,
    Int32Array.from(input.problem.jobs, (j) => j.published ?? -1),
  ).plan;
}

/** Programmes that are being planned: one search at a time takes a core. */
const planning = new WeakSet<Knex>();

/**
 * Plans anew from the plan in force, in a worker, and keeps what it finds as a proposal where that is better or where
 * the plan in force no longer holds. The requests of others are answered meanwhile.
 * @throws UserError `nothing-to-plan`, `planning-already` while another search goes on
 */
export async function proposePlan(
  db: Knex,
  acting: Acting,
  p: { today: LocalDate; moves?: number; boundSeconds?: number; polishSeconds?: number },
): Promise<{ proposalId: number | null; saved: number }> {
  const before = await answered<{ proposalId: number | null; saved: number }>(db, acting, 'plan.propose', {
    today: p.today,
  });
  if (before) return before.result;
  if (planning.has(db))
    throw new UserError(
      'planning-already',
      409,
      'A plan is already being worked out',
      'A plan is already being worked out. It takes a minute or two; open this page again to see it.',
    );
  planning.add(db);
  try {
    return await propose(db, acting, p);
  } finally {
    planning.delete(db);
  }
}

async function propose(
  db: Knex,
  acting: Acting,
  p: { today: LocalDate; moves?: number; boundSeconds?: number; polishSeconds?: number },
): Promise<{ proposalId: number | null; saved: number }> {
  const input = await planInput(db, { today: p.today, now: acting.now });
  if (input.problem.shifts.length === 0 || input.problem.jobs.length === 0)
    throw new UserError('nothing-to-plan', 409, 'Nothing to plan', 'Nobody is on the rota, or nothing is due.');
  const { problem } = input;
  const start = planInForce(input);
  const answer = await runApart<NightAnswer>(
    'night',
    {
      problem,
      start,
      seed: 1,
      moves: p.moves ?? MOVES,
      boundSeconds: p.boundSeconds ?? BOUND_SECONDS,
      polishSeconds: p.polishSeconds ?? POLISH_SECONDS,
    } satisfies NightTask,
    {
      ms: LONGEST_MS,
      late: { title: 'That took too long', detail: 'That took too long. Use “Find a better plan” instead.' },
    },
  );
  if (brokenRules(problem, answer.plan).length > 0)
    throw new UserError(
      'not-planned',
      500,
      'The new plan broke a rule',
      'The new plan broke a rule, so it was dropped. The published plan is unchanged. Tell whoever runs Arvick.',
    );
  const before = Int32Array.from(problem.jobs, (j) => j.published ?? -1);
  const holds = brokenRules(problem, before).length === 0;
  // As it stands, what no longer fits is not done.
  const costBefore = costOf(problem, holds ? before : start).total;
  const saved = costBefore - answer.cost;
  const items = problem.jobs.flatMap((_, i) => {
    const shift = input.shifts[answer.plan[i] ?? -1];
    const job = input.jobs[i];
    return shift && job
      ? [
          {
            instrumentId: job.instrumentId,
            kind: job.kind,
            personId: shift.personId,
            placeId: shift.placeId,
            on: shift.on,
            startsAt: shift.startsAt,
          },
        ]
      : [];
  });
  return change<{ proposalId: number | null; saved: number }>(
    db,
    acting,
    'plan.propose',
    { today: p.today },
    async (trx) => {
      await trx('plan_proposal').where({ status: 'new' }).update({ status: 'passed' });
      if (saved < 0.5 && holds) return { result: { proposalId: null, saved: 0 }, entity: 'plan', entityId: 0 };
      const id = await insertId(trx, 'plan_proposal', {
        made_at: acting.now,
        on_day: p.today,
        based_on: input.planId,
        cost: answer.cost,
        cost_before: costBefore,
        bound: answer.bound,
        items: JSON.stringify(items),
        status: 'new',
      });
      return { result: { proposalId: id, saved }, entity: 'plan', entityId: id };
    },
  );
}

/** Puts a proposal aside. */
export async function dismissProposal(db: Knex, acting: Acting, p: { id: number }): Promise<{ dismissed: true }> {
  return change(db, acting, 'plan.dismiss', p, async (trx) => {
    if ((await trx('plan_proposal').where({ id: p.id, status: 'new' }).update({ status: 'dismissed' })) === 0)
      throw notFound('This proposal');
    return { result: { dismissed: true as const }, entity: 'plan', entityId: p.id };
  });
}

/**
 * Looks every few minutes whether it is night and the programme has no proposal of this day yet, and plans. A server
 * that is down at night plans when it is up the next night.
 *
 * @returns stops it
 */
export function planByNight(db: Knex, p: { now: () => number; when?: string }): () => void {
  const look = async (): Promise<void> => {
    const programme = await loadProgramme(db);
    if (!programme) return;
    const { timeZone } = programme;
    const at = p.now();
    const today = localDate(at, timeZone);
    const hour = Number(new Intl.DateTimeFormat('en-GB', { timeZone, hour: '2-digit' }).format(at));
    if (hour < NIGHT.from || hour >= NIGHT.to) return;
    const key = `night-${today}`;
    if (await db('idempotency').where({ key }).first()) return;
    if (!(await db('availability').first())) return;
    const who = must((await db('person').where({ role: 'coordinator' }).first()) ?? (await db('person').first()));
    await proposePlan(db, { personId: who.id, now: at, key }, { today });
    await db('plan_proposal')
      .where('made_at', '<', at - 90 * 86_400_000)
      .del();
  };
  // Nothing to plan is no fault, and a database in trouble may be well again in ten minutes.
  const failed = (error: unknown) => {
    if (!(error instanceof UserError) || error.status >= 500) log.error(error, 'The night’s plan failed');
  };
  const job = new Cron(p.when ?? EVERY_TEN_MINUTES, { protect: true, unref: true, catch: failed }, look);
  void job.trigger();
  return () => job.stop();
}
