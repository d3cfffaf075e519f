import type { Knex } from 'knex';
import { because } from '../../core/stock/why';
import type { Acting } from '../db/change';
import * as columns from '../db/columns';
import { must } from '../db/must';
import { loadInstrument, loadProducts } from '../fleet/instruments';
import { shelfForJob } from '../stock/reserve';
import { writeDrawPlan, writeMove } from '../stock/shelf';

/** What replaced a string that was lost on the way. */
export interface Loss {
  number: number;
  name: string;
  /** Where the next one lies; null when the shelf has none. */
  from: string | null;
  /** The set that was opened for it; the rest of it is on the shelf as singles now. */
  opened: string | null;
  left: number;
}

/** A lost string as the finish counts it. */
export interface LossRow {
  id: number;
  number: number;
  productId: number;
  lotId: number;
  placeId: number;
  costCents: number;
}

/**
 * Takes the successor of a lost string from the shelf: what was lost counts as used from this moment, whatever becomes
 * of the job. Nothing is taken where the position has no house string or the shelf has none.
 */
export async function takeSpare(
  trx: Knex,
  acting: Acting,
  job: { id: number; kind: string; instrument_id: number; halves: string },
  number: number,
): Promise<Loss | null> {
  const instrument = await loadInstrument(trx, { id: job.instrument_id });
  const position = instrument.positions.find((p) => p.number === number);
  if (!position || position.houseProductId === null) return null;
  const productId = position.houseProductId;
  const name = (await loadProducts(trx, [productId])).get(productId)?.name ?? '';
  const person = must(await trx('person').where({ id: acting.personId }).first());
  const half = columns.numbers.read(job.halves).includes(number);
  const need = { number, productId: String(productId), amount: half ? ('half' as const) : ('whole' as const) };
  const { shelf, plan } = await shelfForJob(trx, person.place_id, job.id, [need]);
  const drawn = plan.drawn[0];
  if (!drawn) return { number, name, from: null, opened: null, left: 0 };
  const draw = await writeDrawPlan(trx, plan, shelf, {
    personId: acting.personId,
    now: acting.now,
    recordId: null,
    jobId: job.id,
    op: acting.key,
    reason: because('lost', number),
  });
  const lot = draw.lotOf(drawn.lotId) as { lotId: number; placeId: number };
  await trx('job_loss').insert({
    job_id: job.id,
    number,
    product_id: productId,
    lot_id: lot.lotId,
    place_id: lot.placeId,
    half,
    cost_cents: draw.costOf(drawn),
    at: acting.now,
  });
  const place = must(await trx('place').where({ id: lot.placeId }).first());
  const set = plan.moves.find((m) => m.kind === 'open-set');
  const opened = set
    ? await trx('product')
        .where({ id: Number(set.productId) })
        .first()
    : null;
  return {
    number,
    name,
    from: place.name,
    opened: opened?.name ?? null,
    left: set ? plan.leftovers.reduce((sum, l) => sum + l.quantity, 0) : 0,
  };
}

/** Strings of a job that were lost and taken from the shelf already, the earliest first. */
export async function lossesOf(db: Knex, jobId: number): Promise<LossRow[]> {
  const rows = await db('job_loss').where({ job_id: jobId, returned: false }).orderBy('id');
  return rows.map((r) => ({
    id: r.id,
    number: r.number,
    productId: r.product_id,
    lotId: r.lot_id,
    placeId: r.place_id,
    costCents: r.cost_cents,
  }));
}

/** Puts strings back that were taken for a loss that the finish says did not happen. */
export async function returnLosses(
  trx: Knex,
  losses: readonly LossRow[],
  context: { personId: number; now: number; jobId: number },
): Promise<void> {
  for (const loss of losses) {
    await writeMove(
      trx,
      { lotId: loss.lotId, placeId: loss.placeId, kind: 'return', quantity: 1, brings: loss.costCents },
      { ...context, recordId: null, reason: because('not-lost') },
    );
    await trx('job_loss').where({ id: loss.id }).update({ returned: true });
  }
}
