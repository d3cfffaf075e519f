import type { Knex } from 'knex';
import type { Drawn, DrawPlan, SetContents, ShelfLot } from '../../core/stock/draw';
import { applyMoves, type MoveKind, NegativeStockError } from '../../core/stock/ledger';
import { shareValue, valueOfPart } from '../../core/stock/value';
import type { Reason, WhyClaimed } from '../../core/stock/why';
import { among } from '../db/among';
import { insertId } from '../db/change';
import { notFound, refused } from '../errors';

/** Whose eyes look at the shelf. */
export interface ReachOptions {
  /** Only lots that can serve these products. */
  productIds?: readonly number[];
  /** The job that draws: what was set aside for it goes first. */
  jobId?: number;
  /** Also what was set aside for other jobs; without it only what is free. */
  othersToo?: boolean;
}

/** A lot at one place, as a draw names it: one lot may lie in two places. */
export type PlacedLot = ShelfLot & { placeId: number };

/**
 * The lots in reach of someone working at a place: its own shelf and the store's, since a kit is brought along. What
 * was set aside for other jobs is left out.
 */
export async function shelfInReach(db: Knex, placeId: number, options: ReachOptions = {}): Promise<PlacedLot[]> {
  const { productIds, jobId = -1 } = options;
  const query = db('lot_balance as b')
    .join('lot as l', 'l.id', 'b.lot_id')
    .join('place as p', 'p.id', 'b.place_id')
    .where('b.on_hand', '>', 0)
    .where((q) => q.where('b.place_id', placeId).orWhere('p.is_store', true))
    .select('l.*', 'b.on_hand', 'b.value_cents', 'b.place_id');
  if (productIds) {
    const sets = db('set_item').whereIn('product_id', among(db, productIds)).select('set_id');
    query.where((q) => q.whereIn('l.product_id', among(db, productIds)).orWhereIn('l.product_id', sets));
  }
  const rows = await query;
  const claims = await db('reserved').whereIn(
    'lot_id',
    among(
      db,
      rows.map((r) => r.id),
    ),
  );
  return rows.flatMap((r): PlacedLot[] => {
    const here = claims.filter((c) => c.lot_id === r.id && c.place_id === r.place_id);
    const others = here.filter((c) => c.job_id !== jobId).reduce((sum, c) => sum + c.quantity, 0);
    const onHand = options.othersToo ? r.on_hand : r.on_hand - others;
    if (onHand <= 0) return [];
    return [
      {
        lotId: `${r.id}@${r.place_id}`,
        productId: String(r.product_id),
        form: r.form,
        sealed: Boolean(r.sealed),
        receivedOn: r.received_on,
        onHand,
        heldBack: r.on_hand - onHand,
        valueCents: r.value_cents,
        placeId: r.place_id,
        ...(here.some((c) => c.job_id === jobId) ? { mine: true } : {}),
      },
    ];
  });
}

export async function setContents(db: Knex, productIds?: readonly number[]): Promise<SetContents> {
  // A hybrid is a recipe, not a pack: there is nothing to open.
  const query = db('set_item').whereNotIn('set_id', db('product').where({ kind: 'hybrid' }).select('id'));
  if (productIds) query.whereIn('set_id', db('set_item').whereIn('product_id', among(db, productIds)).select('set_id'));
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

/** For `whereNotExists` on moves named `m`: the move that took one back. */
export const notTakenBack = (db: Knex): Knex.QueryBuilder =>
  db('stock_move as back').whereRaw('back.reverses_id = m.id').select('back.id');

export interface MoveContext {
  personId: number;
  now: number;
  recordId: number | null;
  /** The job it was for, where it is not part of its record. */
  jobId?: number;
  reason: Reason;
  /** The key of the change it belongs to: moves of one change are taken back together. */
  op?: string;
}

export interface NewMove {
  lotId: number;
  placeId: number;
  kind: MoveKind;
  quantity: number;
  /** The value that comes in with it. What goes out takes its share along. */
  brings?: number;
  reversesId?: number;
}

/**
 * Writes one move and keeps the balance with it. Returns the value moved, without its sign.
 * @throws NegativeStockError
 */
export async function writeMove(trx: Knex, move: NewMove, context: MoveContext): Promise<number> {
  const row = { lot_id: move.lotId, place_id: move.placeId };
  const balance = await trx('lot_balance').where(row).first();
  const onHand = balance?.on_hand ?? 0;
  const worth = balance?.value_cents ?? 0;
  const lot = String(move.lotId);
  const after = applyMoves(new Map([[lot, onHand]]), [{ lotId: lot, kind: move.kind, quantity: move.quantity }]).get(
    lot,
  ) as number;
  const value = move.quantity < 0 ? -valueOfPart(worth, onHand, -move.quantity) : (move.brings ?? 0);
  await trx('stock_move').insert({
    ...row,
    kind: move.kind,
    quantity: move.quantity,
    value_cents: value,
    record_id: context.recordId,
    job_id: context.jobId ?? null,
    person_id: context.personId,
    at: context.now,
    why: context.reason.why,
    reason: context.reason.of,
    reverses_id: move.reversesId ?? null,
    op: context.op ?? '',
  });
  // Only what is there has a balance row, so that the shelf stays quick to read after years of lots.
  if (after === 0) await trx('lot_balance').where(row).del();
  else if (balance)
    await trx('lot_balance')
      .where(row)
      .update({ on_hand: after, value_cents: worth + value });
  else await trx('lot_balance').insert({ ...row, on_hand: after, value_cents: worth + value });
  if (move.quantity < 0) await shrinkClaims(trx, row, after, context);
  return Math.abs(value);
}

/** Moves that only change where or as what strings lie. */
const WITHIN = ['open-set', 'from-set', 'halve', 'from-whole', 'transfer'];

/**
 * Answers moves by moves the other way round, value and all; the last first.
 * @throws what `usedSince` makes, when what a move brought is not there any more
 */
export async function reverseMoves(
  trx: Knex,
  moves: readonly {
    id: number;
    kind: string;
    lot_id: number;
    place_id: number;
    quantity: number;
    value_cents: number;
  }[],
  context: MoveContext,
  usedSince: () => Error,
): Promise<void> {
  // What is taken out again takes its share of what lies there by then, which may be a hundredth more or less than it
  // brought: what it came from gets back as much as was taken, so that no money is made or lost.
  let more = 0;
  for (const move of moves) {
    const inner = WITHIN.includes(move.kind);
    try {
      const moved = await writeMove(
        trx,
        {
          lotId: move.lot_id,
          placeId: move.place_id,
          kind: 'return',
          quantity: -move.quantity,
          brings: inner ? Math.max(0, -move.value_cents + more) : -move.value_cents,
          reversesId: move.id,
        },
        context,
      );
      if (inner) more += move.quantity > 0 ? moved - move.value_cents : -move.value_cents - moved;
    } catch (error) {
      throw error instanceof NegativeStockError ? usedSince() : error;
    }
  }
}

/** What is set aside never exceeds what is there: the youngest claims, and spares first, give way. */
async function shrinkClaims(
  trx: Knex,
  row: { lot_id: number; place_id: number },
  onHand: number,
  context: MoveContext,
): Promise<void> {
  const claims = await trx('reserved')
    .where(row)
    .orderBy([
      { column: 'spare', order: 'desc' },
      { column: 'job_id', order: 'desc' },
    ]);
  let over = claims.reduce((sum, c) => sum + c.quantity, 0) - onHand;
  // The job that moves gives up its own claim first: it has what it was for.
  const own = (c: { job_id: number }) => (c.job_id === context.jobId ? 0 : 1);
  for (const claim of [...claims].sort((a, b) => own(a) - own(b))) {
    if (over <= 0) return;
    const quantity = Math.min(over, claim.quantity);
    over -= quantity;
    await claimMore(
      trx,
      {
        lotId: row.lot_id,
        placeId: row.place_id,
        jobId: claim.job_id,
        spare: Boolean(claim.spare),
        quantity: -quantity,
      },
      { ...context, reason: claim.job_id === context.jobId ? 'used' : 'taken' },
    );
  }
}

/** Adds to, or with a minus takes from, what is set aside of a lot for a job. */
export async function claimMore(
  trx: Knex,
  claim: { lotId: number; placeId: number; jobId: number; spare: boolean; quantity: number },
  context: Pick<MoveContext, 'personId' | 'now'> & { reason: WhyClaimed },
): Promise<void> {
  if (claim.quantity === 0) return;
  const row = { lot_id: claim.lotId, place_id: claim.placeId, job_id: claim.jobId, spare: claim.spare };
  await trx('reservation').insert({
    ...row,
    quantity: claim.quantity,
    person_id: context.personId,
    at: context.now,
    reason: context.reason,
  });
  const known = await trx('reserved').where(row).first();
  const after = (known?.quantity ?? 0) + claim.quantity;
  if (after < 0) throw new NegativeStockError(String(claim.lotId), known?.quantity ?? 0, claim.quantity);
  if (after === 0) await trx('reserved').where(row).del();
  else if (known) await trx('reserved').where(row).update({ quantity: after });
  else await trx('reserved').insert({ ...row, quantity: after });
}

/** A draw plan that was written: where its lots are, and what each string cost by the ledger. */
export interface WrittenDraw {
  lotOf: (lotId: string) => { lotId: number; placeId: number } | undefined;
  costOf: (drawn: Drawn) => number;
}

/**
 * Writes a draw plan to the ledger. What comes out of a lot brings what left it there, to the hundredth, whatever the plan
 * thought it was worth.
 */
export async function writeDrawPlan(
  trx: Knex,
  plan: DrawPlan,
  shelf: readonly PlacedLot[],
  context: MoveContext,
): Promise<WrittenDraw> {
  const real = new Map(
    shelf.map((lot) => [lot.lotId, { lotId: Number(lot.lotId.split('@')[0]), placeId: lot.placeId }]),
  );
  const receivedOn = new Map(shelf.map((lot) => [lot.lotId, lot.receivedOn]));
  const values: number[] = [];
  let parts: number[] = [];
  for (const [i, move] of plan.moves.entries()) {
    let at = real.get(move.lotId);
    if (!at) {
      const from = real.get(move.fromLotId ?? '');
      if (!from) throw new Error(`The plan makes ${move.lotId} out of a lot it has not touched.`);
      const received = receivedOn.get(move.fromLotId ?? '') as string;
      at = {
        lotId: await madeFrom(trx, from.lotId, Number(move.productId), move.form, received),
        placeId: from.placeId,
      };
      real.set(move.lotId, at);
      receivedOn.set(move.lotId, received);
    }
    const brings = move.quantity > 0 ? parts.shift() : undefined;
    if (move.quantity > 0 && brings === undefined) throw new Error('The plan makes a lot out of nothing.');
    const value = await writeMove(
      trx,
      { ...at, kind: move.kind, quantity: move.quantity, ...(brings === undefined ? {} : { brings }) },
      context,
    );
    values.push(value);
    if (move.kind === 'open-set' || move.kind === 'halve') {
      const end = plan.moves.findIndex((m, k) => k > i && m.quantity < 0);
      const made = plan.moves.slice(i + 1, end < 0 ? undefined : end);
      parts = shareValue(
        value,
        made.map((m) => m.quantity),
      );
    }
  }
  return { lotOf: (lotId) => real.get(lotId), costOf: (drawn) => values[drawn.move] ?? 0 };
}

/** The lot of strings out of another lot: opened, as old as where it came from. */
export async function madeFrom(
  trx: Knex,
  fromLotId: number,
  productId: number,
  form: string,
  receivedOn: string,
): Promise<number> {
  return insertId(trx, 'lot', {
    product_id: productId,
    form,
    sealed: false,
    received_on: receivedOn,
    unit_cost_cents: 0,
    from_lot_id: fromLotId,
  });
}

/**
 * A product in a form in which it can lie there: sets as sets, strings whole, and halves only of what is long enough
 * for two.
 * @throws UserError not-found, `form`, `no-double`
 */
export async function requireForm(trx: Knex, productId: number, form: string): Promise<void> {
  const product = await trx('product').where({ id: productId }).first();
  if (!product) throw notFound('This product');
  if (product.kind === 'hybrid')
    throw refused(
      'hybrid',
      'A hybrid set is not stocked',
      'A hybrid set is not stocked. Enter the sets it is made from.',
    );
  if ((form === 'set') !== (product.kind === 'set'))
    throw refused(
      'form',
      'A set or a string?',
      `${product.name} is ${product.kind === 'set' ? 'a set' : 'not a set'}. Choose the matching form.`,
    );
  if (form === 'half' && !product.double_length)
    throw refused(
      'no-double',
      'Not a double-length string',
      `${product.name} is not a double-length string, so it has no halves.`,
    );
}

export interface NewLot {
  productId: number;
  form: string;
  sealed: boolean;
  receivedOn: string;
  unitCostCents: number;
  placeId: number;
  quantity: number;
  kind: 'receive' | 'count';
  orderId?: number;
  label?: string;
}

/** A new lot on the shelf of a place. */
export async function receiveLot(trx: Knex, lot: NewLot, context: MoveContext): Promise<number> {
  const lotId = await insertId(trx, 'lot', {
    product_id: lot.productId,
    form: lot.form,
    sealed: lot.sealed,
    received_on: lot.receivedOn,
    unit_cost_cents: lot.unitCostCents,
    from_lot_id: null,
    order_id: lot.orderId ?? null,
    label: lot.label ?? '',
  });
  await writeMove(
    trx,
    {
      lotId,
      placeId: lot.placeId,
      kind: lot.kind,
      quantity: lot.quantity,
      brings: lot.unitCostCents * lot.quantity,
    },
    context,
  );
  return lotId;
}
