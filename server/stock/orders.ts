import type { Knex } from 'knex';
import type { LocalDate } from '../../core/dates';
import { localDate } from '../clock';
import { among } from '../db/among';
import { type Acting, change, insertId } from '../db/change';
import { standInSupplier } from '../devices/supplier';
import { conflict, notFound, refused } from '../errors';
import { receiveLot } from './shelf';

export interface Supplier {
  id: number;
  name: string;
  leadDays: number;
  lateShare: number;
  lateDays: number;
  leastOrderCents: number;
  orderCostCents: number;
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
  version: r.version as number,
});

export async function loadSuppliers(db: Knex): Promise<Supplier[]> {
  return (await db('supplier').orderBy('name')).map(supplierOf);
}

/** Adds a supplier. @throws UserError when the name is taken */
export async function addSupplier(
  db: Knex,
  acting: Acting,
  p: Omit<Supplier, 'id' | 'version'>,
): Promise<{ supplierId: number }> {
  return change(db, acting, 'supplier.add', p, async (trx) => {
    if (await trx('supplier').where({ name: p.name }).first())
      throw refused('name-taken', 'This name is taken', `There is a supplier ${p.name} already.`);
    const supplierId = await insertId(trx, 'supplier', {
      name: p.name,
      lead_days: p.leadDays,
      late_share: p.lateShare,
      late_days: p.lateDays,
      least_order_cents: p.leastOrderCents,
      order_cost_cents: p.orderCostCents,
    });
    return { result: { supplierId }, entity: 'supplier', entityId: supplierId };
  });
}

/** Who a product is bought from, in what trade unit and at what price; the price is kept with its day. */
export async function setSource(
  db: Knex,
  acting: Acting,
  p: { productId: number; supplierId: number; pack: number; cents: number },
): Promise<{ productId: number }> {
  return change(db, acting, 'product.source', p, async (trx) => {
    const product = await trx('product').where({ id: p.productId }).first();
    if (!product) throw notFound('This product');
    if (!(await trx('supplier').where({ id: p.supplierId }).first())) throw notFound('This supplier');
    const programme = await trx('programme').first();
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

export type OrderStatus = 'draft' | 'confirmed' | 'part' | 'received' | 'cancelled';

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

/** Drafts an order: one supplier, so many of each product in whole trade units. */
export async function draftOrder(
  db: Knex,
  acting: Acting,
  p: { supplierId: number; placeId: number; lines: { productId: number; quantity: number }[]; note: string },
): Promise<{ orderId: number }> {
  return change(db, acting, 'order.draft', p, async (trx) => {
    if (!(await trx('supplier').where({ id: p.supplierId }).first())) throw notFound('This supplier');
    if (p.lines.length === 0) throw refused('no-lines', 'Nothing to order', 'Put at least one product on it.');
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

async function writeLines(
  trx: Knex,
  orderId: number,
  supplierId: number,
  lines: readonly { productId: number; quantity: number }[],
): Promise<void> {
  for (const line of lines) {
    const product = await trx('product').where({ id: line.productId }).first();
    if (!product) throw notFound('This product');
    if (product.supplier_id !== supplierId)
      throw refused('other-supplier', 'Bought elsewhere', `${product.name} is not bought from this supplier.`);
    if (line.quantity % product.pack !== 0)
      throw refused(
        'trade-unit',
        'Whole trade units',
        `${product.name} comes ${product.pack} at a time: order ${Math.ceil(line.quantity / product.pack) * product.pack}.`,
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
    throw conflict('Somebody changed this order. Reload to see it.', {
      currentVersion: order.version,
      status: order.status,
    });
  return order;
}

/** Changes the lines of a draft: as they are given, and no others. */
export async function editDraft(
  db: Knex,
  acting: Acting,
  p: { orderId: number; expectedVersion: number; lines: { productId: number; quantity: number }[]; note: string },
): Promise<{ orderId: number }> {
  return change(db, acting, 'order.edit', p, async (trx) => {
    const order = await requireOrder(trx, p.orderId, p.expectedVersion, ['draft']);
    const lines = p.lines.filter((l) => l.quantity > 0);
    if (lines.length === 0) throw refused('no-lines', 'Nothing left on it', 'Put it away instead.');
    await trx('order_line').where({ order_id: order.id }).del();
    await writeLines(trx, order.id, order.supplier_id, lines);
    await trx('purchase_order')
      .where({ id: order.id })
      .update({ note: p.note, version: order.version + 1 });
    return { result: { orderId: order.id }, entity: 'purchase_order', entityId: order.id };
  });
}

/** Sends a draft to its supplier, which confirms it and says when it comes. */
export async function sendOrder(
  db: Knex,
  acting: Acting,
  p: { orderId: number; expectedVersion: number },
): Promise<{ expectedOn: LocalDate; theirNumber: string }> {
  return change(db, acting, 'order.send', p, async (trx) => {
    const order = await requireOrder(trx, p.orderId, p.expectedVersion, ['draft']);
    const supplier = supplierOf(await trx('supplier').where({ id: order.supplier_id }).first());
    const lines = await trx('order_line').where({ order_id: order.id }).orderBy('id');
    const cents = lines.reduce((sum, l) => sum + l.quantity * l.cents, 0);
    if (cents < supplier.leastOrderCents)
      throw refused(
        'too-small',
        'Below what it sends for',
        `${supplier.name} sends from ${(supplier.leastOrderCents / 100).toFixed(2)} up; this is ${(cents / 100).toFixed(2)}. Add to it.`,
      );
    const programme = await trx('programme').first();
    const sentOn = localDate(acting.now, programme.time_zone);
    const answer = standInSupplier(
      supplier,
      { id: order.id, lines: lines.map((l) => ({ productId: l.product_id, quantity: l.quantity })) },
      sentOn,
    );
    for (const [productId, confirmed] of answer.confirmed)
      await trx('order_line').where({ order_id: order.id, product_id: productId }).update({ confirmed });
    for (const delivery of answer.deliveries)
      await trx('delivery').insert({
        order_id: order.id,
        arrives_on: delivery.arrivesOn,
        lines: JSON.stringify(delivery.lines),
        status: 'under-way',
      });
    for (const line of lines)
      await trx('price').insert({
        product_id: line.product_id,
        supplier_id: supplier.id,
        cents: line.cents,
        on_day: sentOn,
        order_id: order.id,
      });
    await trx('purchase_order')
      .where({ id: order.id })
      .update({
        status: 'confirmed',
        sent_at: acting.now,
        expected_on: answer.expectedOn,
        their_number: answer.theirNumber,
        version: order.version + 1,
      });
    return {
      result: { expectedOn: answer.expectedOn, theirNumber: answer.theirNumber },
      entity: 'purchase_order',
      entityId: order.id,
    };
  });
}

/** Keeps what the supplier says of a delivery under way: another day on which it comes. */
export async function postponeOrder(
  db: Knex,
  acting: Acting,
  p: { orderId: number; expectedVersion: number; expectedOn: LocalDate },
): Promise<{ expectedOn: LocalDate }> {
  return change(db, acting, 'order.postpone', p, async (trx) => {
    const order = await requireOrder(trx, p.orderId, p.expectedVersion, ['confirmed', 'part']);
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
 * Receives a delivery against its order, as it was counted: each product becomes a sealed lot with a label; what
 * differs from the note is kept.
 */
export async function receiveDelivery(
  db: Knex,
  acting: Acting,
  p: { deliveryId: number; expectedVersion: number; lines: { productId: number; quantity: number }[] },
): Promise<{ lotIds: number[]; differences: number }> {
  return change(db, acting, 'order.receive', p, async (trx) => {
    const delivery = await trx('delivery').where({ id: p.deliveryId }).first();
    if (!delivery) throw notFound('This delivery');
    const order = await requireOrder(trx, delivery.order_id, p.expectedVersion, ['confirmed', 'part']);
    if (delivery.status === 'received') throw conflict('This delivery has been received already.', {});
    const programme = await trx('programme').first();
    const today = localDate(acting.now, programme.time_zone);
    if (delivery.arrives_on > today)
      throw refused('not-here', 'It has not come yet', `It is expected ${order.expected_on}.`);
    const announced: { productId: number; quantity: number }[] = JSON.parse(delivery.lines);
    const lines = await trx('order_line').where({ order_id: order.id });
    const unknown = p.lines.find((l) => !lines.some((o) => o.product_id === l.productId));
    if (unknown) throw refused('not-ordered', 'Not on the order', 'Receive what was not ordered by hand.');
    const lotIds: number[] = [];
    const differences: { productId: number; announced: number; counted: number }[] = [];
    for (const line of lines) {
      const counted = p.lines.find((l) => l.productId === line.product_id)?.quantity ?? 0;
      const said = announced.find((l) => l.productId === line.product_id)?.quantity ?? 0;
      if (counted !== said) differences.push({ productId: line.product_id, announced: said, counted });
      if (counted === 0) continue;
      const product = await trx('product').where({ id: line.product_id }).first();
      lotIds.push(
        await receiveLot(
          trx,
          {
            productId: line.product_id,
            form: product.kind === 'set' ? 'set' : 'single',
            sealed: true,
            receivedOn: today,
            unitCostCents: line.cents,
            placeId: order.place_id,
            quantity: counted,
            kind: 'receive',
            orderId: order.id,
            label: order.their_number,
          },
          {
            personId: acting.personId,
            now: acting.now,
            recordId: null,
            reason: `order ${order.id}`,
            op: acting.key,
          },
        ),
      );
      await trx('order_line')
        .where({ id: line.id })
        .update({ received: line.received + counted });
    }
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
  const rank: OrderStatus[] = ['draft', 'part', 'confirmed', 'received', 'cancelled'];
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
            lines: (JSON.parse(d.lines) as { productId: number; quantity: number }[]).map((l) => ({
              ...l,
              name: names.get(l.productId) ?? '',
            })),
          })),
        receipts: of
          .filter((d) => d.status === 'received')
          .map((d) => ({
            on: localDate(d.received_at, d.time_zone),
            by: d.by,
            differences: (JSON.parse(d.differences) as { productId: number; announced: number; counted: number }[]).map(
              (x) => `${names.get(x.productId)}: ${x.counted} of ${x.announced}`,
            ),
          })),
      };
    })
    .sort((a, b) => rank.indexOf(a.status) - rank.indexOf(b.status) || b.id - a.id);
}
