import type { Knex } from 'knex';
import { isChange, type JobKind } from '../../core/procedures/types';
import { type DrawPlan, drawFor, type Need } from '../../core/stock/draw';
import type { WhyClaimed } from '../../core/stock/why';
import type { Acting } from '../db/change';
import * as columns from '../db/columns';
import { must } from '../db/must';
import { loadInstrument } from '../fleet/instruments';
import { claimMore, type PlacedLot, setContents, shelfInReach } from './shelf';

/** What a plan takes from each lot that is there now. */
export function takenFrom(plan: DrawPlan, shelf: readonly PlacedLot[]): Map<string, number> {
  const there = new Set(shelf.map((l) => l.lotId));
  const taken = new Map<string, number>();
  for (const m of plan.moves)
    if (m.quantity < 0 && there.has(m.lotId)) taken.set(m.lotId, (taken.get(m.lotId) ?? 0) - m.quantity);
  return taken;
}

/**
 * Sets aside the house strings of a job where the person who acts works, and one more of each as a spare, unless another
 * open job of the batch holds that spare already. What the shelf does not have is not set aside; the kit says so.
 */
export async function reserveKit(trx: Knex, acting: Acting, jobId: number): Promise<void> {
  const job = must(await trx('job').where({ id: jobId }).first());
  if (job.kind === 'refit' || !isChange(job.kind as JobKind)) return;
  const instrument = await loadInstrument(trx, { id: job.instrument_id });
  const numbers = columns.numbers.read(job.strings);
  const halves = columns.numbers.read(job.halves);
  const needs = instrument.positions.flatMap((p): Need[] =>
    p.houseProductId === null || !numbers.includes(p.number)
      ? []
      : [
          {
            number: p.number,
            productId: String(p.houseProductId),
            amount: halves.includes(p.number) ? 'half' : 'whole',
          },
        ],
  );
  if (needs.length === 0) return;
  const person = must(await trx('person').where({ id: acting.personId }).first());
  const productIds = [...new Set(needs.map((n) => Number(n.productId)))];
  const shelf = await shelfInReach(trx, person.place_id, { productIds });
  const contents = await setContents(trx, productIds);
  const kit = takenFrom(drawFor(needs, shelf, contents), shelf);
  const aside = (taken: ReadonlyMap<string, number>, spare: boolean) =>
    Promise.all(
      [...taken].map(([lotId, quantity]) => {
        const [lot, place] = lotId.split('@').map(Number) as [number, number];
        return claimMore(
          trx,
          { lotId: lot, placeId: place, jobId, spare, quantity },
          { personId: acting.personId, now: acting.now, reason: spare ? 'spare' : 'kit' },
        );
      }),
    );
  await aside(kit, false);
  // The spare: what the same again would take from what is left.
  const held = job.batch_id ? await sparesOfBatch(trx, job.batch_id, jobId) : new Set<number>();
  const spares = needs.filter((n) => !held.has(Number(n.productId)));
  const left = shelf.map((l) => ({ ...l, onHand: l.onHand - (kit.get(l.lotId) ?? 0) })).filter((l) => l.onHand > 0);
  await aside(takenFrom(drawFor(spares, left, contents), left), true);
}

/** Strings of which an open job of the batch holds a spare, in whatever pack. */
async function sparesOfBatch(trx: Knex, batchId: number, exceptJob: number): Promise<Set<number>> {
  const rows = await trx('reserved as r')
    .join('job as j', 'j.id', 'r.job_id')
    .join('lot as l', 'l.id', 'r.lot_id')
    .leftJoin('set_item as i', 'i.set_id', 'l.product_id')
    .where({ 'j.batch_id': batchId, 'j.status': 'open', 'r.spare': true })
    .whereNot('j.id', exceptJob)
    .select('l.product_id', 'i.product_id as item');
  return new Set(rows.map((r) => r.item ?? r.product_id));
}

/** Puts back what is still set aside for a job: the spare of a finished one, all of one that was put away. */
export async function releaseKit(
  trx: Knex,
  acting: Pick<Acting, 'personId' | 'now'>,
  jobId: number,
  reason: WhyClaimed,
): Promise<void> {
  for (const claim of await trx('reserved').where({ job_id: jobId }))
    await claimMore(
      trx,
      {
        lotId: claim.lot_id,
        placeId: claim.place_id,
        jobId,
        spare: Boolean(claim.spare),
        quantity: -claim.quantity,
      },
      { personId: acting.personId, now: acting.now, reason },
    );
}

/**
 * The shelf a job draws from: what is free and its own, or, where that does not do, also what others have set aside:
 * what has gone on has gone on.
 */
export async function shelfForJob(
  db: Knex,
  placeId: number,
  jobId: number,
  needs: readonly Need[],
): Promise<{ shelf: PlacedLot[]; plan: DrawPlan }> {
  const productIds = [...new Set(needs.map((n) => Number(n.productId)))];
  const contents = await setContents(db, productIds);
  const shelf = await shelfInReach(db, placeId, { productIds, jobId });
  const plan = drawFor(needs, shelf, contents);
  if (plan.short.length === 0) return { shelf, plan };
  const whole = await shelfInReach(db, placeId, { productIds, jobId, othersToo: true });
  return { shelf: whole, plan: drawFor(needs, whole, contents) };
}
