import { existsSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { fileURLToPath, pathToFileURL } from 'node:url';
import { Worker } from 'node:worker_threads';
import type { Knex } from 'knex';
import type { LocalDate } from '../../core/dates';
import { brokenRules, costOf } from '../../core/planning/check';
import type { Plan } from '../../core/planning/model';
import { repaired } from '../../core/planning/repair';
import { localDate } from '../clock';
import { type Acting, change, insertId } from '../db/change';
import { notFound, UserError } from '../errors';
import type { NightAnswer, NightTask } from './night.worker';
import type { PlanItem } from './plans';
import { type PlanInput, planInput } from './problem';

/** Local hours in which the server plans by itself. */
const NIGHT = { from: 2, to: 5 };
const LOOK_EVERY_MS = 10 * 60_000;
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
  items: Pick<PlanItem, 'instrumentId' | 'kind' | 'personId' | 'placeId' | 'on'>[];
}

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
    items: JSON.parse(row.items),
  };
}

/** The plan in force as it is now, mended where it no longer holds. */
export function planInForce(input: Pick<PlanInput, 'problem'>): Plan {
  return repaired(
    input.problem,
    Int32Array.from(input.problem.jobs, (j) => j.published ?? -1),
  ).plan;
}

/**
 * Plans anew from the plan in force, in a worker, and keeps what it finds as a proposal where that is better or where
 * the plan in force no longer holds. The requests of others are answered meanwhile.
 * @throws UserError `nothing-to-plan`, `not-planned` when the worker fails
 */
export async function proposePlan(
  db: Knex,
  acting: Acting,
  p: { today: LocalDate; moves?: number; boundSeconds?: number; polishSeconds?: number },
): Promise<{ proposalId: number | null; saved: number }> {
  const input = await planInput(db, p);
  if (input.problem.shifts.length === 0 || input.problem.jobs.length === 0)
    throw new UserError(
      'nothing-to-plan',
      409,
      'Nothing to plan',
      'Nobody is planned to be anywhere, or nothing is due.',
    );
  const { problem } = input;
  const start = planInForce(input);
  const answer = await solveApart({
    problem,
    start,
    seed: 1,
    moves: p.moves ?? MOVES,
    boundSeconds: p.boundSeconds ?? BOUND_SECONDS,
    polishSeconds: p.polishSeconds ?? POLISH_SECONDS,
  });
  if (brokenRules(problem, answer.plan).length > 0)
    throw new UserError(
      'not-planned',
      500,
      'The plan that was found breaks a rule',
      'Tell whoever looks after Arvick.',
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

/** The worker, built beside the server, or from its source where nothing is built. */
function startWorker(workerData: NightTask): Worker {
  let folder = dirname(fileURLToPath(import.meta.url));
  for (let up = 0; up < 4; up++) {
    const built = join(folder, 'night.worker.mjs');
    if (existsSync(built)) return new Worker(built, { workerData });
    const source = join(folder, 'night.worker.ts');
    if (existsSync(source)) {
      const url = JSON.stringify(pathToFileURL(source).href);
      // A worker does not take over a loader from the command line.
      const run = `import('tsx/esm/api').then(({ tsImport }) => tsImport(${url}, ${url}))`;
      return new Worker(run, { eval: true, workerData });
    }
    folder = dirname(folder);
  }
  throw new UserError('not-planned', 500, 'The planner is missing', 'Build Arvick again: npm run build.');
}

function solveApart(task: NightTask): Promise<NightAnswer> {
  return new Promise((done, failed) => {
    const worker = startWorker(task);
    const timer = setTimeout(() => {
      void worker.terminate();
      failed(new UserError('not-planned', 504, 'It took too long', 'Plan in the page instead.'));
    }, LONGEST_MS);
    const end = (act: () => void) => {
      clearTimeout(timer);
      act();
      void worker.terminate();
    };
    worker.once('message', (answer: NightAnswer) => end(() => done(answer)));
    worker.once('error', (error) =>
      end(() => failed(new UserError('not-planned', 500, 'The planner stopped', error.message))),
    );
  });
}

/**
 * Looks every few minutes whether it is night and the programme has no proposal of this day yet, and plans. A server
 * that is down at night plans when it is up the next night.
 *
 * @returns stops it
 */
export function planByNight(db: Knex, p: { timeZone: string; now: () => number; every?: number }): () => void {
  let running = false;
  const look = async (): Promise<void> => {
    const at = p.now();
    const today = localDate(at, p.timeZone);
    const hour = Number(new Intl.DateTimeFormat('en-GB', { timeZone: p.timeZone, hour: '2-digit' }).format(at));
    if (running || hour < NIGHT.from || hour >= NIGHT.to) return;
    const key = `night-${today}`;
    if (await db('idempotency').where({ key }).first()) return;
    if (!(await db('availability').first())) return;
    running = true;
    try {
      const who = (await db('person').where({ role: 'coordinator' }).first()) ?? (await db('person').first());
      await proposePlan(db, { personId: who.id, now: at, key }, { today });
      await db('plan_proposal')
        .where('made_at', '<', at - 90 * 86_400_000)
        .del();
    } catch (error) {
      // Nothing to plan is no fault; the next night looks again.
      if (!(error instanceof UserError)) console.error('The night’s plan failed:', error);
    } finally {
      running = false;
    }
  };
  const timer = setInterval(() => void look(), p.every ?? LOOK_EVERY_MS);
  timer.unref();
  void look();
  return () => clearInterval(timer);
}
