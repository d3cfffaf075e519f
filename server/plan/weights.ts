import type { Knex } from 'knex';
import type { Weights } from '../../contract/plan';
import type { PlanWeights } from '../../core/planning/model';
import { type Acting, change } from '../db/change';
import * as columns from '../db/columns';
import { conflict } from '../errors';

export type ProgrammeWeights = Required<PlanWeights>;

/** What a plan's parts weigh until somebody says otherwise; a day late of an ordinary job is one point. No source. */
export const USUAL_WEIGHTS: ProgrammeWeights = {
  wall: 3,
  unplannedDays: 20,
  missedRetune: 2,
  setUp: 1,
  travel: 1,
  fairness: 0.5,
  change: 1,
};

export async function loadWeights(db: Knex): Promise<{ weights: ProgrammeWeights; version: number }> {
  const row = await db('plan_weights').where({ id: 1 }).first();
  return row
    ? { weights: { ...USUAL_WEIGHTS, ...columns.weights.read(row.weights) }, version: row.version }
    : { weights: { ...USUAL_WEIGHTS }, version: 0 };
}

/** @throws UserError `conflict` when somebody changed them meanwhile */
export async function saveWeights(db: Knex, acting: Acting, p: Weights): Promise<{ version: number }> {
  return change(db, acting, 'plan.weights', p, async (trx) => {
    const now = await loadWeights(trx);
    if (now.version !== p.expectedVersion)
      throw conflict('Someone else has changed what matters most. Reload to see theirs.', { ...now });
    const version = now.version + 1;
    await trx('plan_weights')
      .insert({ id: 1, weights: JSON.stringify(p.weights), version })
      .onConflict('id')
      .merge();
    return { result: { version }, entity: 'plan', entityId: 1 };
  });
}
