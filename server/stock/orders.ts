import type { Knex } from 'knex';
import type { Arrival, Confirmation, Draft, EditedDraft, OrderedLine } from '../../contract/stock';
import { addDays, type LocalDate, sayDay } from '../../core/dates';
import { amountOf } from '../../core/manner';
import { because } from '../../core/stock/why';
import { localDate } from '../clock';
import { among } from '../db/among';
import { type Acting, change, insertId } from '../db/change';
import * as columns from '../db/columns';
import { must } from '../db/must';
import { requireSeen } from '../db/seen';
import { type SupplierAnswer, standInSupplier } from '../devices/supplier';
import { conflict, notFound, refused } from '../errors';
import { programmeRow } from '../programme/programme';
import { receiveLot } from './shelf';

export interface Supplier {
  id: number;
  name: string;
  leadDays: number;
  lateShare: number;
  lateDays: number;
  leastOrderCents: number;
  orderCostCents: number;
  /** A stand-in of the demo: it answers and delivers by itself. Orders from any other are on paper. */
  simulated: boolean;
  /** Where orders are written to; empty where nobody said. */
  email: string;
  /** Nobody buys there any more. */
  retiredOn: LocalDate | null;
  version: number;
}

const supplierOf = (r: Record<string, unknown>): Supplier => ({
  id: r.id as number,
  name: r.name as string,
  leadDays: r.lead_days as number,
  lateShare: r.late_share as number,
  lateDays: r.late_days as number,
  leastOrderCents: r.least_order_cents as number,
  orderCostCents: r.order_cost_cents as number,
  simulated: Boolean(r.simulated),
  email: (r.email as string | undefined) ?? '',
  retiredOn: (r.retired_on as string | null | undefined) ?? null,
  version: r.version as number,
});

export async function loadSuppliers(db: Knex): Promise<Supplier[]> {
  return (await db('supplier').orderBy('name')).map(supplierOf);
}

/** Adds a supplier. @throws UserError when the name is taken */
export async function addSupplier(
  db: Knex,
  acting: Acting,
  p: Omit<Supplier, 'id' | 'version' | 'simulated' | 'email' | 'retiredOn'> & { simulated?: boolean; email?: string },
): Promise<{ supplierId: number }> {
  return change(db, acting, 'supplier.add', p, async (trx) => {
    if (await trx('supplier').where({ name: p.name }).first())
      throw refused('name-taken', 'This name is taken', `There is already a supplier called ${p.name}.`);
    const supplierId = await insertId(trx, 'supplier', {
      name: p.name,
      lead_days: p.leadDays,
      late_share: p.lateShare,
      late_days: p.lateDays,
      least_order_cents: p.leastOrderCents,
      order_cost_cents: p.orderCostCents,
      simulated: p.simulated ?? false,
      email: p.email ?? '',
    });
    return { result: { supplierId }, entity: 'supplier', entityId: supplierId };
  });
}

/**
 * Puts right what is said of a supplier, or says that nobody buys there any more; what was ordered there stays ordered.
 * @throws UserError not-found, conflict, `name-taken`
 */
export async function editSupplier(
  db: Knex,
  acting: Acting,
  p: Omit<Supplier, 'version' | 'simulated' | 'retiredOn'> & { expectedVersion: number; retired: boolean },
): Promise<{ version: number }> {
  return change(db, acting, 'supplier.edit', p, async (trx) => {
    const before = await trx('supplier').where({ id: p.id }).first();
    if (!before) throw notFound('This supplier');
    if (before.version !== p.expectedVersion)
      throw conflict(`Someone else has changed ${before.name}. Reload to see it, then change it again.`, {
        currentVersion: before.version,
        current: supplierOf(before),
      });
    if (await trx('supplier').where({ name: p.name }).whereNot({ id: p.id }).first())
      throw refused('name-taken', 'This name is taken', `There is already a supplier called ${p.name}.`);
    const programme = await programmeRow(trx);
    await trx('supplier')
      .where({ id: p.id })
      .update({
        name: p.name,
        email: p.email,
        lead_days: p.leadDays,
        late_share: p.lateShare,
        late_days: p.lateDays,
        least_order_cents: p.leastOrderCents,
        order_cost_cents: p.orderCostCents,
        retired_on: p.retired ? (before.retired_on ?? localDate(acting.now, programme.time_zone)) : null,
        version: before.version + 1,
      });
    return {
      result: { version: before.version + 1 },
      entity: 'supplier',
      entityId: p.id,
      detail: { before, after: p },
    };
  });
}

/** Who a product is bought from, in what trade unit and at what price; the price is kept with its day. */
export async function setSource(
  db: Knex,
  acting: Acting,
  p: { productId: number; supplierId: number; pack: number; cents: number; was?: string | undefined },
): Promise<{ productId: number }> {
  return change(db, acting, 'product.source', p, async (trx) => {
    const product = await trx('product').where({ id: p.productId }).first();
    if (!product) throw notFound('This product');
    if (!(await trx('supplier').where({ id: p.supplierId }).first())) throw notFound('This supplier');
    const price = amountOf(product.price_cents);
    requireSeen(
      p.was,
      `${product.supplier_id ?? ''}/${product.pack}/${price}`,
      `${price} each, in packs of ${product.pack}`,
    );
    const programme = await programmeRow(trx);
    await trx('product').where({ id: p.productId }).update({
      supplier_id: p.supplierId,
      pack: p.pack,
      price_cents: p.cents,
    });
    await trx('price').insert({
      product_id: p.productId,
      supplier_id: p.supplierId,
      cents: p.cents,
      on_day: localDate(acting.now, programme.time_zone),
    });
    return { result: { productId: p.productId }, entity: 'product', entityId: p.productId };
  });
}

/**
 * `sent`: placed, and no answer entered yet; `part`: some of it is here; `closed`: the rest is not coming any more.
 */
export type OrderStatus = 'draft' | 'sent' | 'confirmed' | 'part' | 'received' | 'closed' | 'cancelled';

/** Orders of which something may still come. */
const UNDER_WAY: readonly OrderStatus[] = ['sent', 'confirmed', 'part'];

/** Packs that are under way: as they were confirmed, as they were ordered while nobody has confirmed them. */
export interface ComingLine {
  lineId: number;
  productId: number;
  placeId: number;
  packs: number;
  cents: number;
  expectedOn: LocalDate;
}

export async function comingLines(db: Knex): Promise<ComingLine[]> {
  const rows = await db('order_line as l')
    .join('purchase_order as o', 'o.id', 'l.order_id')
    .whereIn('o.status', UNDER_WAY)
    .whereRaw('coalesce(l.confirmed, l.quantity) > l.received')
    .select('l.*', 'o.expected_on', 'o.place_id');
  return rows.map((r) => ({
    lineId: r.id,
    productId: r.product_id,
    placeId: r.place_id,
    packs: (r.confirmed ?? r.quantity) - r.received,
    cents: r.cents,
    expectedOn: r.expected_on,
  }));
}

export interface OrderView {
  id: number;
  supplier: Supplier;
  placeId: number;
  place: string;
  status: OrderStatus;
  version: number;
  by: string;
  madeAt: number;
  sentAt: number | null;
  expectedOn: LocalDate | null;
  theirNumber: string;
  note: string;
  lines: {
    productId: number;
    name: string;
    quantity: number;
    confirmed: number | null;
    received: number;
    cents: number;
  }[];
  cents: number;
  /** What has come and waits to be received. */
  arrived: { id: number; arrivedOn: LocalDate; lines: { productId: number; name: string; quantity: number }[] }[];
  receipts: { on: LocalDate; by: string; differences: string[] }[];
}

/** @throws UserError `twice` when a product stands on two lines */
function oncePerProduct(lines: readonly OrderedLine[]): void {
  if (new Set(lines.map((l) => l.productId)).size !== lines.length)
    throw refused('twice', 'One product on two lines', 'Put each product on one line, with the full quantity.');
}

/** Drafts an order: one supplier, so many of each product in whole trade units. */
export async function draftOrder(db: Knex, acting: Acting, p: Draft): Promise<{ orderId: number }> {
  return change(db, acting, 'order.draft', p, async (trx) => {
    if (!(await trx('supplier').where({ id: p.supplierId }).first())) throw notFound('This supplier');
    if (!(await trx('place').where({ id: p.placeId }).first())) throw notFound('This place');
    if (p.lines.length === 0) throw refused('no-lines', 'Nothing to order', 'Put at least one product on the order.');
    const orderId = await insertId(trx, 'purchase_order', {
      supplier_id: p.supplierId,
      place_id: p.placeId,
      status: 'draft',
      person_id: acting.personId,
      made_at: acting.now,
      note: p.note,
    });
    await writeLines(trx, orderId, p.supplierId, p.lines);
    return { result: { orderId }, entity: 'purchase_order', entityId: orderId };
  });
}

/**
 * Puts a product on the draft for its supplier and this place, by hand: on the latest one that is open, or on a new one.
 * @throws UserError `no-supplier` when it is not known who sells it
 */
export async function putOnDraft(
  db: Knex,
  acting: Acting,
  p: { productId: number; quantity: number; placeId: number },
): Promise<{ orderId: number }> {
  return change(db, acting, 'order.add', p, async (trx) => {
    const product = await trx('product').where({ id: p.productId }).first();
    if (!product) throw notFound('This product');
    if (!(await trx('place').where({ id: p.placeId }).first())) throw notFound('This place');
    if (!product.supplier_id)
      throw refused(
        'no-supplier',
        'No supplier yet',
        `First choose a supplier for ${product.name}, under Bought from.`,
      );
    const draft = await trx('purchase_order')
      .where({ supplier_id: product.supplier_id, place_id: p.placeId, status: 'draft' })
      .orderBy('id', 'desc')
      .first();
    const orderId =
      draft?.id ??
      (await insertId(trx, 'purchase_order', {
        supplier_id: product.supplier_id,
        place_id: p.placeId,
        status: 'draft',
        person_id: acting.personId,
        made_at: acting.now,
        note: '',
      }));
    const line = await trx('order_line').where({ order_id: orderId, product_id: p.productId }).first();
    const quantity = p.quantity + (line?.quantity ?? 0);
    if (line) await trx('order_line').where({ id: line.id }).del();
    await writeLines(trx, orderId, product.supplier_id, [{ productId: p.productId, quantity }]);
    if (draft) await trx('purchase_order').where({ id: orderId }).increment('version', 1);
    return { result: { orderId }, entity: 'purchase_order', entityId: orderId };
  });
}

async function writeLines(
  trx: Knex,
  orderId: number,
  supplierId: number,
  lines: readonly OrderedLine[],
): Promise<void> {
  oncePerProduct(lines);
  for (const line of lines) {
    if (line.quantity === 0) throw refused('quantity', 'How many?', 'Enter at least 1, or leave the product out.');
    const product = await trx('product').where({ id: line.productId }).first();
    if (!product) throw notFound('This product');
    if (product.supplier_id !== supplierId)
      throw refused('other-supplier', 'Bought elsewhere', `${product.name} is not bought from this supplier.`);
    if (line.quantity % product.pack !== 0)
      throw refused(
        'trade-unit',
        'Full packs only',
        `${product.name} comes in packs of ${product.pack}. Order ${Math.ceil(line.quantity / product.pack) * product.pack}.`,
      );
    await trx('order_line').insert({
      order_id: orderId,
      product_id: line.productId,
      quantity: line.quantity,
      cents: product.price_cents,
    });
  }
}

async function requireOrder(trx: Knex, orderId: number, expectedVersion: number, statuses: readonly OrderStatus[]) {
  const order = await trx('purchase_order').where({ id: orderId }).first();
  if (!order) throw notFound('This order');
  if (order.version !== expectedVersion || !statuses.includes(order.status))
    throw conflict('Someone else has changed this order. Reload to see it.', {
      currentVersion: order.version,
      status: order.status,
    });
  return order;
}

/** Changes the lines of a draft: as they are given, and no others. */
export async function editDraft(
  db: Knex,
  acting: Acting,
  p: EditedDraft & { orderId: number },
): Promise<{ orderId: number }> {
  return change(db, acting, 'order.edit', p, async (trx) => {
    const order = await requireOrder(trx, p.orderId, p.expectedVersion, ['draft']);
    const lines = p.lines.filter((l) => l.quantity > 0);
    if (lines.length === 0) throw refused('no-lines', 'The order is empty', 'The order is empty: cancel it instead.');
    await trx('order_line').where({ order_id: order.id }).del();
    await writeLines(trx, order.id, order.supplier_id, lines);
    await trx('purchase_order')
      .where({ id: order.id })
      .update({ note: p.note, version: order.version + 1 });
    return { result: { orderId: order.id }, entity: 'purchase_order', entityId: order.id };
  });
}

/**
 * Places a draft with its supplier. The stand-in of the demo answers at once; any other supplier's order is on paper,
 * expected after its usual days until somebody enters what it says.
 */
export async function sendOrder(
  db: Knex,
  acting: Acting,
  p: { orderId: number; expectedVersion: number },
): Promise<{ expectedOn: LocalDate; theirNumber: string }> {
  return change(db, acting, 'order.send', p, async (trx) => {
    const order = await requireOrder(trx, p.orderId, p.expectedVersion, ['draft']);
    const supplier = supplierOf(must(await trx('supplier').where({ id: order.supplier_id }).first()));
    const lines = await trx('order_line').where({ order_id: order.id }).orderBy('id');
    const cents = lines.reduce((sum, l) => sum + l.quantity * l.cents, 0);
    if (cents < supplier.leastOrderCents)
      throw refused(
        'too-small',
        'Below the minimum order',
        `Below the minimum order: ${supplier.name} needs ${(supplier.leastOrderCents / 100).toFixed(2)}, this is ${(cents / 100).toFixed(2)}. Add more.`,
      );
    const programme = await programmeRow(trx);
    const sentOn = localDate(acting.now, programme.time_zone);
    for (const line of lines)
      await trx('price').insert({
        product_id: line.product_id,
        supplier_id: supplier.id,
        cents: line.cents,
        on_day: sentOn,
        order_id: order.id,
      });
    const answer = supplier.simulated ? await simulate(trx, supplier, order.id, lines, sentOn) : null;
    const expectedOn = answer?.expectedOn ?? addDays(sentOn, supplier.leadDays);
    await trx('purchase_order')
      .where({ id: order.id })
      .update({
        status: (answer ? 'confirmed' : 'sent') satisfies OrderStatus,
        sent_at: acting.now,
        expected_on: expectedOn,
        their_number: answer?.theirNumber ?? '',
        version: order.version + 1,
      });
    return {
      result: { expectedOn, theirNumber: answer?.theirNumber ?? '' },
      entity: 'purchase_order',
      entityId: order.id,
    };
  });
}

/** Lets the stand-in answer an order, and keeps what it will deliver. */
async function simulate(
  trx: Knex,
  supplier: Supplier,
  orderId: number,
  lines: readonly { product_id: number; quantity: number }[],
  sentOn: LocalDate,
): Promise<SupplierAnswer> {
  const answer = standInSupplier(
    supplier,
    { id: orderId, lines: lines.map((l) => ({ productId: l.product_id, quantity: l.quantity })) },
    sentOn,
  );
  for (const [productId, confirmed] of answer.confirmed)
    await trx('order_line').where({ order_id: orderId, product_id: productId }).update({ confirmed });
  for (const delivery of answer.deliveries)
    await trx('delivery').insert({
      order_id: orderId,
      arrives_on: delivery.arrivesOn,
      lines: JSON.stringify(delivery.lines),
      status: 'under-way',
    });
  return answer;
}

/** Enters what a supplier answered: its number, the day, and how many it will send. */
export async function confirmOrder(
  db: Knex,
  acting: Acting,
  p: Confirmation & { orderId: number },
): Promise<{ orderId: number }> {
  return change(db, acting, 'order.confirm', p, async (trx) => {
    const order = await requireOrder(trx, p.orderId, p.expectedVersion, UNDER_WAY);
    oncePerProduct(p.lines);
    for (const line of p.lines) {
      const own = await trx('order_line').where({ order_id: order.id, product_id: line.productId }).first();
      if (!own) throw refused('not-ordered', 'Not on the order', 'Only products on the order can be confirmed.');
      if (line.quantity < own.received)
        throw refused(
          'received',
          'More has already arrived',
          'More than that has already arrived. Confirm at least what was received.',
        );
      await trx('order_line').where({ id: own.id }).update({ confirmed: line.quantity });
    }
    await trx('purchase_order')
      .where({ id: order.id })
      .update({
        status: order.status === 'part' ? 'part' : 'confirmed',
        their_number: p.theirNumber,
        expected_on: p.expectedOn,
        version: order.version + 1,
      });
    return { result: { orderId: order.id }, entity: 'purchase_order', entityId: order.id };
  });
}

/** Says that the rest of an order is not coming any more; one of which nothing came is called off. */
export async function closeOrder(
  db: Knex,
  acting: Acting,
  p: { orderId: number; expectedVersion: number },
): Promise<{ status: OrderStatus }> {
  return change(db, acting, 'order.close', p, async (trx) => {
    const order = await requireOrder(trx, p.orderId, p.expectedVersion, UNDER_WAY);
    const programme = await programmeRow(trx);
    const parcel = await trx('delivery')
      .where({ order_id: order.id, status: 'under-way' })
      .where('arrives_on', '<=', localDate(acting.now, programme.time_zone))
      .first();
    if (parcel)
      throw refused(
        'has-come',
        'A delivery has arrived',
        'A delivery for this order has arrived. Count and receive it first.',
      );
    const came = await trx('order_line').where({ order_id: order.id }).where('received', '>', 0).first();
    const status: OrderStatus = came ? 'closed' : 'cancelled';
    await trx('delivery').where({ order_id: order.id, status: 'under-way' }).update({ status: 'cancelled' });
    await trx('purchase_order')
      .where({ id: order.id })
      .update({ status, version: order.version + 1 });
    return { result: { status }, entity: 'purchase_order', entityId: order.id };
  });
}

/** Keeps what the supplier says of a delivery under way: another day on which it comes. */
export async function postponeOrder(
  db: Knex,
  acting: Acting,
  p: { orderId: number; expectedVersion: number; expectedOn: LocalDate },
): Promise<{ expectedOn: LocalDate }> {
  return change(db, acting, 'order.postpone', p, async (trx) => {
    const order = await requireOrder(trx, p.orderId, p.expectedVersion, UNDER_WAY);
    await trx('purchase_order')
      .where({ id: order.id })
      .update({ expected_on: p.expectedOn, version: order.version + 1 });
    return { result: { expectedOn: p.expectedOn }, entity: 'purchase_order', entityId: order.id };
  });
}

/** Puts a draft away. */
export async function cancelOrder(
  db: Knex,
  acting: Acting,
  p: { orderId: number; expectedVersion: number },
): Promise<{ cancelled: true }> {
  return change(db, acting, 'order.cancel', p, async (trx) => {
    const order = await requireOrder(trx, p.orderId, p.expectedVersion, ['draft']);
    await trx('purchase_order')
      .where({ id: order.id })
      .update({ status: 'cancelled', version: order.version + 1 });
    return { result: { cancelled: true as const }, entity: 'purchase_order', entityId: order.id };
  });
}

/**
 * Receives a delivery of the stand-in against its order, as it was counted: each product becomes a sealed lot with a
 * label; what differs from the note is kept.
 */
export async function receiveDelivery(
  db: Knex,
  acting: Acting,
  p: Arrival & { deliveryId: number },
): Promise<{ lotIds: number[]; differences: number }> {
  return change(db, acting, 'order.receive', p, async (trx) => {
    const delivery = await trx('delivery').where({ id: p.deliveryId }).first();
    if (!delivery) throw notFound('This delivery');
    const order = await requireOrder(trx, delivery.order_id, p.expectedVersion, ['confirmed', 'part']);
    if (delivery.status !== 'under-way') throw conflict('This delivery has already been received.', {});
    const programme = await programmeRow(trx);
    const today = localDate(acting.now, programme.time_zone);
    if (delivery.arrives_on > today)
      throw refused(
        'not-here',
        'Not delivered yet',
        `Not delivered yet: expected ${sayDay(delivery.arrives_on, today)}.`,
      );
    const announced = columns.orderLines.read(delivery.lines);
    const { lotIds, differences } = await takeIn(trx, acting, order, p.lines, (line) => {
      return announced.find((l) => l.productId === line.product_id)?.quantity ?? 0;
    });
    await trx('delivery')
      .where({ id: delivery.id })
      .update({
        status: 'received',
        received_at: acting.now,
        person_id: acting.personId,
        differences: JSON.stringify(differences),
      });
    const open = await trx('delivery').where({ order_id: order.id, status: 'under-way' }).first();
    await trx('purchase_order')
      .where({ id: order.id })
      .update({ status: open ? 'part' : 'received', version: order.version + 1 });
    return { result: { lotIds, differences: differences.length }, entity: 'purchase_order', entityId: order.id };
  });
}

/**
 * Receives what came of an order on paper, on any day and in parts: what is still missing stays under way until it
 * comes, or the order is closed.
 */
export async function receiveOrder(
  db: Knex,
  acting: Acting,
  p: Arrival & { orderId: number },
): Promise<{ lotIds: number[]; differences: number }> {
  return change(db, acting, 'order.receive', p, async (trx) => {
    const order = await requireOrder(trx, p.orderId, p.expectedVersion, UNDER_WAY);
    if (!p.lines.some((l) => l.quantity > 0))
      throw refused('nothing', 'Nothing received', 'Enter how many arrived of at least one product.');
    const programme = await programmeRow(trx);
    const outstanding = (line: { quantity: number; confirmed: number | null; received: number }) =>
      Math.max(0, (line.confirmed ?? line.quantity) - line.received);
    const { lotIds, differences } = await takeIn(trx, acting, order, p.lines, outstanding);
    await trx('delivery').insert({
      order_id: order.id,
      arrives_on: localDate(acting.now, programme.time_zone),
      lines: JSON.stringify(p.lines.filter((l) => l.quantity > 0)),
      status: 'received',
      received_at: acting.now,
      person_id: acting.personId,
      // Less than is outstanding is a part; more was not expected.
      differences: JSON.stringify(differences.filter((d) => d.counted > d.announced)),
    });
    const lines = await trx('order_line').where({ order_id: order.id });
    await trx('purchase_order')
      .where({ id: order.id })
      .update({
        status: lines.every((l) => outstanding(l) === 0) ? 'received' : 'part',
        version: order.version + 1,
      });
    return { result: { lotIds, differences: differences.length }, entity: 'purchase_order', entityId: order.id };
  });
}

/** Books what was counted of an order as lots of the shelf, with what differs from what was expected. */
async function takeIn(
  trx: Knex,
  acting: Acting,
  order: { id: number; place_id: number; their_number: string },
  counted: readonly OrderedLine[],
  expected: (line: { product_id: number; quantity: number; confirmed: number | null; received: number }) => number,
): Promise<{ lotIds: number[]; differences: { productId: number; announced: number; counted: number }[] }> {
  oncePerProduct(counted);
  const programme = await programmeRow(trx);
  const lines = await trx('order_line').where({ order_id: order.id });
  if (counted.some((l) => !lines.some((o) => o.product_id === l.productId)))
    throw refused(
      'not-ordered',
      'Not on the order',
      'Something here is not on the order. Receive it separately, by hand.',
    );
  const lotIds: number[] = [];
  const differences: { productId: number; announced: number; counted: number }[] = [];
  for (const line of lines) {
    const quantity = counted.find((l) => l.productId === line.product_id)?.quantity ?? 0;
    const announced = expected(line);
    if (quantity !== announced) differences.push({ productId: line.product_id, announced, counted: quantity });
    if (quantity === 0) continue;
    const product = must(await trx('product').where({ id: line.product_id }).first());
    lotIds.push(
      await receiveLot(
        trx,
        {
          productId: line.product_id,
          form: product.kind === 'set' ? 'set' : 'single',
          sealed: true,
          receivedOn: localDate(acting.now, programme.time_zone),
          unitCostCents: line.cents,
          placeId: order.place_id,
          quantity,
          kind: 'receive',
          orderId: order.id,
          label: order.their_number,
        },
        {
          personId: acting.personId,
          now: acting.now,
          recordId: null,
          reason: because('order', order.id),
          op: acting.key,
        },
      ),
    );
    await trx('order_line')
      .where({ id: line.id })
      .update({ received: line.received + quantity });
  }
  return { lotIds, differences };
}

/** Orders, the open ones first; a delivery is seen on the day it has come. */
export async function loadOrders(db: Knex, today: LocalDate, orderId?: number): Promise<OrderView[]> {
  const query = db('purchase_order as o')
    .join('person as p', 'p.id', 'o.person_id')
    .join('place as l', 'l.id', 'o.place_id')
    .orderBy('o.id', 'desc')
    .limit(60)
    .select('o.*', 'p.name as by', 'l.name as place');
  if (orderId !== undefined) query.where('o.id', orderId);
  const rows = await query;
  const ids = rows.map((r) => r.id);
  const suppliers = new Map((await loadSuppliers(db)).map((s) => [s.id, s]));
  const lines = await db('order_line as l')
    .join('product as p', 'p.id', 'l.product_id')
    .whereIn('l.order_id', among(db, ids))
    .orderBy('l.id')
    .select('l.*', 'p.name');
  const deliveries = await db('delivery as d')
    .leftJoin('person as p', 'p.id', 'd.person_id')
    .leftJoin('programme as g', db.raw('1 = 1') as never)
    .whereIn('d.order_id', among(db, ids))
    .orderBy('d.arrives_on')
    .select('d.*', 'p.name as by', 'g.time_zone');
  const names = new Map(lines.map((l) => [l.product_id as number, l.name as string]));
  const rank: OrderStatus[] = ['draft', 'part', 'confirmed', 'sent', 'received', 'closed', 'cancelled'];
  return rows
    .map((r): OrderView => {
      const own = lines.filter((l) => l.order_id === r.id);
      const of = deliveries.filter((d) => d.order_id === r.id);
      return {
        id: r.id,
        supplier: suppliers.get(r.supplier_id) as Supplier,
        placeId: r.place_id,
        place: r.place,
        status: r.status,
        version: r.version,
        by: r.by,
        madeAt: r.made_at,
        sentAt: r.sent_at,
        expectedOn: r.expected_on,
        theirNumber: r.their_number,
        note: r.note,
        lines: own.map((l) => ({
          productId: l.product_id,
          name: l.name,
          quantity: l.quantity,
          confirmed: l.confirmed,
          received: l.received,
          cents: l.cents,
        })),
        cents: own.reduce((sum, l) => sum + l.quantity * l.cents, 0),
        arrived: of
          .filter((d) => d.status === 'under-way' && d.arrives_on <= today)
          .map((d) => ({
            id: d.id,
            arrivedOn: d.arrives_on,
            lines: columns.orderLines.read(d.lines).map((l) => ({
              ...l,
              name: names.get(l.productId) ?? '',
            })),
          })),
        receipts: of
          .filter((d) => d.status === 'received')
          .map((d) => ({
            on: localDate(d.received_at, d.time_zone),
            by: d.by,
            differences: columns.differences
              .read(d.differences)
              .map((x) => `${names.get(x.productId)}: ${x.counted} of ${x.announced}`),
          })),
      };
    })
    .sort((a, b) => rank.indexOf(a.status) - rank.indexOf(b.status) || b.id - a.id);
}
