import type { Knex } from 'knex';
import type { Back, Opening, Scrap, Take, Transfer } from '../../contract/stock';
import { NegativeStockError } from '../../core/stock/ledger';
import { shareValue } from '../../core/stock/value';
import { because, type Reason, saidOr } from '../../core/stock/why';
import { localDate } from '../clock';
import { among } from '../db/among';
import { type Acting, change } from '../db/change';
import { must } from '../db/must';
import { conflict, notFound, refused } from '../errors';
import { programmeRow } from '../programme/programme';
import { comingLines } from './orders';
import { type MoveContext, madeFrom, receiveLot, requireForm, reverseMoves, setContents, writeMove } from './shelf';

/** So many of a lot at a place. */

const contextOf = (acting: Acting, reason: Reason): MoveContext => ({
  personId: acting.personId,
  now: acting.now,
  recordId: null,
  reason,
  op: acting.key,
});

/** Runs moves, and says in words when the shelf does not have so many. */
async function orShort<T>(work: () => Promise<T>): Promise<T> {
  try {
    return await work();
  } catch (error) {
    if (error instanceof NegativeStockError)
      throw conflict(`This lot has only ${error.onHand} left here. Check again, or count the shelf.`, {
        onHand: error.onHand,
      });
    throw error;
  }
}

async function lotRow(trx: Knex, lotId: number) {
  const lot = await trx('lot').where({ id: lotId }).first();
  if (!lot) throw notFound('This lot');
  return lot;
}

async function requirePlace(trx: Knex, placeId: number): Promise<void> {
  if (!(await trx('place').where({ id: placeId }).first())) throw notFound('This place');
}

const atLeastOne = (quantity: number) => {
  if (!(Number.isInteger(quantity) && quantity > 0))
    throw refused('quantity', 'How many?', 'Enter a whole number, at least 1.');
};

/** Carries strings or packs from one place to another: the same lot, its value with it. */
export async function transfer(
  db: Knex,
  acting: Acting,
  p: Omit<Transfer, 'kit'> & Partial<Pick<Transfer, 'kit'>>,
): Promise<{ moved: number }> {
  return change(db, acting, 'stock.transfer', p, async (trx) => {
    await requirePlace(trx, p.toPlaceId);
    const why = saidOr(p.reason, p.kit ? because('kit') : undefined);
    let moved = 0;
    for (const take of p.takes) {
      atLeastOne(take.quantity);
      await lotRow(trx, take.lotId);
      if (take.placeId === p.toPlaceId) continue;
      await orShort(async () => {
        const value = await writeMove(
          trx,
          { lotId: take.lotId, placeId: take.placeId, kind: 'transfer', quantity: -take.quantity },
          contextOf(acting, why),
        );
        await writeMove(
          trx,
          { lotId: take.lotId, placeId: p.toPlaceId, kind: 'transfer', quantity: take.quantity, brings: value },
          contextOf(acting, why),
        );
      });
      moved += take.quantity;
    }
    return { result: { moved }, entity: 'place', entityId: p.toPlaceId };
  });
}

/** Takes strings or packs off the book, with a reason. */
export async function scrap(db: Knex, acting: Acting, p: Scrap): Promise<{ scrapped: number }> {
  return change(db, acting, 'stock.scrap', p, async (trx) => {
    atLeastOne(p.quantity);
    if (p.reason.trim().length < 3) throw refused('reason', 'Reason missing', 'Give a reason in a few words.');
    await lotRow(trx, p.lotId);
    await orShort(() =>
      writeMove(
        trx,
        { lotId: p.lotId, placeId: p.placeId, kind: 'scrap', quantity: -p.quantity },
        contextOf(acting, saidOr(p.reason)),
      ),
    );
    return { result: { scrapped: p.quantity }, entity: 'lot', entityId: p.lotId };
  });
}

/** Opens sets: their strings become singles where the set lay. */
export async function openSets(db: Knex, acting: Acting, p: Take): Promise<{ strings: number }> {
  return change(db, acting, 'stock.open', p, async (trx) => {
    atLeastOne(p.quantity);
    const lot = await lotRow(trx, p.lotId);
    const items = (await setContents(trx)).get(String(lot.product_id));
    if (lot.form !== 'set' || !items) throw refused('no-set', 'Not a set', 'Only a set can be opened.');
    const context = contextOf(acting, because('opened'));
    const value = await orShort(() =>
      writeMove(trx, { lotId: p.lotId, placeId: p.placeId, kind: 'open-set', quantity: -p.quantity }, context),
    );
    const shares = shareValue(
      value,
      items.map((i) => i.count),
    );
    let strings = 0;
    for (const [i, item] of items.entries()) {
      const lotId = await madeFrom(trx, p.lotId, Number(item.productId), 'single', lot.received_on);
      const quantity = item.count * p.quantity;
      await writeMove(
        trx,
        { lotId, placeId: p.placeId, kind: 'from-set', quantity, brings: shares[i] as number },
        context,
      );
      strings += quantity;
    }
    return { result: { strings }, entity: 'lot', entityId: p.lotId };
  });
}

/** Cuts double-length strings in the middle. */
export async function halveStrings(db: Knex, acting: Acting, p: Take): Promise<{ halves: number }> {
  return change(db, acting, 'stock.halve', p, async (trx) => {
    atLeastOne(p.quantity);
    const lot = await lotRow(trx, p.lotId);
    const product = must(await trx('product').where({ id: lot.product_id }).first());
    if (lot.form !== 'single' || !product.double_length)
      throw refused('no-double', 'Not a double-length string', 'Only a double-length string can be cut in half.');
    const context = contextOf(acting, because('halved'));
    const value = await orShort(() =>
      writeMove(trx, { lotId: p.lotId, placeId: p.placeId, kind: 'halve', quantity: -p.quantity }, context),
    );
    const lotId = await madeFrom(trx, p.lotId, lot.product_id, 'half', lot.received_on);
    await writeMove(
      trx,
      { lotId, placeId: p.placeId, kind: 'from-whole', quantity: 2 * p.quantity, brings: value },
      context,
    );
    return { result: { halves: 2 * p.quantity }, entity: 'lot', entityId: p.lotId };
  });
}

/** Puts a string back on the shelf that the book does not know: an unused one out of a case, a half in its envelope. */
export async function backToShelf(db: Knex, acting: Acting, p: Back): Promise<{ lotId: number }> {
  return change(db, acting, 'stock.back', p, async (trx) => {
    atLeastOne(p.quantity);
    await requireForm(trx, p.productId, p.form);
    await requirePlace(trx, p.placeId);
    const programme = await programmeRow(trx);
    const lotId = await receiveLot(
      trx,
      {
        productId: p.productId,
        form: p.form,
        sealed: p.form === 'set',
        receivedOn: localDate(acting.now, programme.time_zone),
        unitCostCents: 0,
        placeId: p.placeId,
        quantity: p.quantity,
        kind: 'count',
      },
      contextOf(acting, saidOr(p.reason, because('back-to-shelf'))),
    );
    return { result: { lotId }, entity: 'lot', entityId: lotId };
  });
}

/** Kinds of change whose moves can be taken back here; those of a job are taken back with its record. */
const REVERSIBLE = ['receive', 'transfer', 'scrap', 'open-set', 'from-set', 'halve', 'from-whole', 'count'];

/**
 * Takes a stock change back: each of its moves is answered by one the other way round. Nothing is erased.
 * @throws UserError when it belongs to a job, was taken back, or what it made has been used since
 */
export async function takeBack(
  db: Knex,
  acting: Acting,
  p: { moveId: number; reason: string },
): Promise<{ moves: number }> {
  return change(db, acting, 'stock.take-back', p, async (trx) => {
    const first = await trx('stock_move').where({ id: p.moveId }).first();
    if (!first) throw notFound('This stock movement');
    const moves = first.op ? await trx('stock_move').where({ op: first.op }).orderBy('id', 'desc') : [first];
    if (moves.some((m) => m.record_id !== null || m.job_id !== null || !REVERSIBLE.includes(m.kind)))
      throw refused(
        'of-a-job',
        'Part of a string change',
        'This belongs to a string change. Undo that change on the instrument’s page.',
      );
    const reversed = await trx('stock_move').whereIn(
      'reverses_id',
      among(
        trx,
        moves.map((m) => m.id),
      ),
    );
    if (reversed.length > 0) throw refused('taken-back', 'Already undone', 'This has already been undone.');
    await reverseMoves(trx, moves, contextOf(acting, saidOr(p.reason, because('taken-back'))), () =>
      refused('used-since', 'Used since', 'Some of it has been used since. Count the shelf.'),
    );
    await openOrdersOf(trx, moves);
    return { result: { moves: moves.length }, entity: 'stock_move', entityId: p.moveId };
  });
}

/** What was received of an order and is taken back is under way again. */
async function openOrdersOf(
  trx: Knex,
  moves: readonly { kind: string; lot_id: number; quantity: number }[],
): Promise<void> {
  for (const move of moves.filter((m) => m.kind === 'receive')) {
    const lot = await lotRow(trx, move.lot_id);
    if (lot.order_id === null) continue;
    await trx('order_line')
      .where({ order_id: lot.order_id, product_id: lot.product_id })
      .decrement('received', move.quantity);
    await trx('purchase_order').where({ id: lot.order_id }).increment('version', 1).update({ status: 'part' });
  }
}

/**
 * Receives a lot against nothing: a delivery by hand, a purchase over the counter.
 */
export async function receive(
  db: Knex,
  acting: Acting,
  p: {
    productId: number;
    quantity: number;
    placeId: number;
    unitCostCents: number | null;
    label?: string | undefined;
    /** It came besides what is on order. */
    besides?: boolean | undefined;
  },
): Promise<{ lotId: number }> {
  return change(db, acting, 'stock.receive', p, async (trx) => {
    atLeastOne(p.quantity);
    const product = await trx('product').where({ id: p.productId }).first();
    if (!product) throw notFound('This product');
    if (product.kind === 'hybrid')
      throw refused(
        'hybrid',
        'A hybrid set is not bought',
        'A hybrid set is not bought. Receive the sets it is made from.',
      );
    // What comes of an order is received there: else it would be counted twice.
    const [ordered] = p.besides ? [] : (await comingLines(trx)).filter((l) => l.productId === p.productId);
    if (ordered) {
      const { order_id: order } = must(await trx('order_line').where({ id: ordered.lineId }).first());
      throw refused(
        'on-order',
        'This is on order',
        `Order ${order} includes ${ordered.packs} of these. Receive them there, or tick that these are extra.`,
        { order },
      );
    }
    await requirePlace(trx, p.placeId);
    const programme = await programmeRow(trx);
    const lotId = await receiveLot(
      trx,
      {
        productId: p.productId,
        form: product.kind === 'set' ? 'set' : 'single',
        sealed: true,
        receivedOn: localDate(acting.now, programme.time_zone),
        unitCostCents: p.unitCostCents ?? product.price_cents,
        placeId: p.placeId,
        quantity: p.quantity,
        kind: 'receive',
        ...(p.label ? { label: p.label } : {}),
      },
      contextOf(acting, because('delivery')),
    );
    return { result: { lotId }, entity: 'lot', entityId: lotId };
  });
}

/** Puts on the book what lies at a place to begin with, at the price of each product; undone as a whole like any receipt. */
export async function openShelf(db: Knex, acting: Acting, p: Opening): Promise<{ location: string; lots: number }> {
  return change(db, acting, 'stock.opening', p, async (trx) => {
    await requirePlace(trx, p.placeId);
    const programme = await programmeRow(trx);
    for (const { productId, quantity } of p.lines) {
      const product = await trx('product').where({ id: productId }).first();
      if (!product) throw notFound('One of these products');
      if (product.kind === 'hybrid')
        throw refused(
          'hybrid',
          'A hybrid set is not stocked',
          `A hybrid set is not stocked. Enter the sets that ${product.name} is made from.`,
        );
      await receiveLot(
        trx,
        {
          productId,
          form: product.kind === 'set' ? 'set' : 'single',
          sealed: true,
          receivedOn: localDate(acting.now, programme.time_zone),
          unitCostCents: product.price_cents,
          placeId: p.placeId,
          quantity,
          kind: 'receive',
        },
        contextOf(acting, because('opening')),
      );
    }
    return { result: { location: '/stock', lots: p.lines.length }, entity: 'place', entityId: p.placeId };
  });
}

export interface OpeningLine {
  productId: number;
  name: string;
  sku: string;
  kind: string;
  family: string | null;
  /** Of it on the book at the place already. */
  there: number;
}

/** Everything that can lie on a shelf, with what is on the book of it at a place: sets, then singles, then what is used up. */
export async function openingLines(db: Knex, placeId: number): Promise<OpeningLine[]> {
  const there = new Map(
    (
      (await db('lot_balance as b')
        .join('lot as l', 'l.id', 'b.lot_id')
        .where('b.place_id', placeId)
        .groupBy('l.product_id')
        .select('l.product_id')
        .sum({ n: 'b.on_hand' })) as unknown as { product_id: number; n: number }[]
    ).map((r) => [r.product_id, Number(r.n)]),
  );
  const rows = await db('product')
    .whereNot({ kind: 'hybrid' })
    .whereNull('retired_on')
    .orderByRaw("case kind when 'set' then 0 when 'consumable' then 2 else 1 end, family, name")
    .select('id', 'name', 'sku', 'kind', 'family');
  return rows.map((r) => ({
    productId: r.id,
    name: r.name,
    sku: r.sku,
    kind: r.kind,
    family: r.family,
    there: there.get(r.id) ?? 0,
  }));
}
