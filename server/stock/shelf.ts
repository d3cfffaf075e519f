import type { Knex } from 'knex';
import type { DrawPlan, SetContents, ShelfLot } from '../../core/stock/draw';
import { applyMoves, type MoveKind } from '../../core/stock/ledger';
import { insertId } from '../db/change';

/**
 * The lots in reach of someone working at a place: its own shelf and the store's, since a kit is brought along.
 * Optionally only lots that can serve some products.
 */
export async function shelfInReach(
  db: Knex,
  placeId: number,
  productIds?: readonly number[],
): Promise<(ShelfLot & { placeId: number })[]> {
  const query = db('lot_balance as b')
    .join('lot as l', 'l.id', 'b.lot_id')
    .join('place as p', 'p.id', 'b.place_id')
    .where('b.on_hand', '>', 0)
    .where((q) => q.where('b.place_id', placeId).orWhere('p.is_store', true))
    .select('l.*', 'b.on_hand', 'b.place_id');
  if (productIds) {
    const sets = db('set_item')
      .whereIn('product_id', [...productIds])
      .select('set_id');
    query.where((q) => q.whereIn('l.product_id', [...productIds]).orWhereIn('l.product_id', sets));
  }
  const rows = await query;
  return rows.map((r) => ({
    // One lot may lie in two places, so a shelf lot is the pair.
    lotId: `${r.id}@${r.place_id}`,
    productId: String(r.product_id),
    form: r.form,
    sealed: Boolean(r.sealed),
    receivedOn: r.received_on,
    onHand: r.on_hand,
    unitCostCents: r.unit_cost_cents,
    placeId: r.place_id,
  }));
}

export async function setContents(db: Knex, productIds?: readonly number[]): Promise<SetContents> {
  const query = db('set_item');
  if (productIds)
    query.whereIn(
      'set_id',
      db('set_item')
        .whereIn('product_id', [...productIds])
        .select('set_id'),
    );
  const result = new Map<string, { productId: string; count: number }[]>();
  for (const row of await query) {
    const items = result.get(String(row.set_id)) ?? [];
    const known = items.find((item) => item.productId === String(row.product_id));
    if (known) known.count += 1;
    else items.push({ productId: String(row.product_id), count: 1 });
    result.set(String(row.set_id), items);
  }
  return result;
}

export interface MoveContext {
  personId: number;
  now: number;
  recordId: number | null;
  /** The job it was for, where it is not part of its record. */
  jobId?: number;
  reason: string;
}

/** Writes one move and keeps the balance with it. @throws NegativeStockError */
export async function writeMove(
  trx: Knex,
  move: { lotId: number; placeId: number; kind: MoveKind; quantity: number; reversesId?: number },
  context: MoveContext,
): Promise<void> {
  const balance = await trx('lot_balance').where({ lot_id: move.lotId, place_id: move.placeId }).first();
  const onHand = balance?.on_hand ?? 0;
  const lot = String(move.lotId);
  const after = applyMoves(new Map([[lot, onHand]]), [{ lotId: lot, kind: move.kind, quantity: move.quantity }]).get(
    lot,
  );
  await trx('stock_move').insert({
    lot_id: move.lotId,
    place_id: move.placeId,
    kind: move.kind,
    quantity: move.quantity,
    record_id: context.recordId,
    job_id: context.jobId ?? null,
    person_id: context.personId,
    at: context.now,
    reason: context.reason,
    reverses_id: move.reversesId ?? null,
  });
  // Only what is there has a balance row, so that the shelf stays quick to read after years of lots.
  const row = { lot_id: move.lotId, place_id: move.placeId };
  if (after === 0) await trx('lot_balance').where(row).del();
  else if (balance) await trx('lot_balance').where(row).update({ on_hand: after });
  else await trx('lot_balance').insert({ ...row, on_hand: after });
}

/** Writes a draw plan to the ledger. Returns the real lot of each lot the plan names. */
export async function writeDrawPlan(
  trx: Knex,
  plan: DrawPlan,
  shelf: readonly (ShelfLot & { placeId: number })[],
  context: MoveContext,
): Promise<Map<string, { lotId: number; placeId: number }>> {
  const real = new Map(
    shelf.map((lot) => [lot.lotId, { lotId: Number(lot.lotId.split('@')[0]), placeId: lot.placeId }]),
  );
  const receivedOn = new Map(shelf.map((lot) => [lot.lotId, lot.receivedOn]));
  for (const move of plan.moves) {
    let at = real.get(move.lotId);
    if (!at) {
      const from = real.get(move.fromLotId ?? '');
      if (!from) throw new Error(`The plan makes ${move.lotId} out of a lot it has not touched.`);
      const received = receivedOn.get(move.fromLotId ?? '') as string;
      const lotId = await insertId(trx, 'lot', {
        product_id: Number(move.productId),
        form: move.form,
        sealed: false,
        received_on: received,
        unit_cost_cents: move.unitCostCents,
        from_lot_id: from.lotId,
      });
      at = { lotId, placeId: from.placeId };
      real.set(move.lotId, at);
      receivedOn.set(move.lotId, received);
    }
    await writeMove(trx, { ...at, kind: move.kind, quantity: move.quantity }, context);
  }
  return real;
}

/** A new lot on the shelf of a place. */
export async function receiveLot(
  trx: Knex,
  lot: {
    productId: number;
    form: string;
    sealed: boolean;
    receivedOn: string;
    unitCostCents: number;
    placeId: number;
    quantity: number;
    kind: 'receive' | 'count';
  },
  context: MoveContext,
): Promise<number> {
  const lotId = await insertId(trx, 'lot', {
    product_id: lot.productId,
    form: lot.form,
    sealed: lot.sealed,
    received_on: lot.receivedOn,
    unit_cost_cents: lot.unitCostCents,
    from_lot_id: null,
  });
  await writeMove(trx, { lotId, placeId: lot.placeId, kind: lot.kind, quantity: lot.quantity }, context);
  return lotId;
}
