import type { Knex } from 'knex';
import type { Family, StringEnd } from '../../core/instruments/build';
import type { CoreMaterial, Material } from '../../core/strings/materials';
import { localDate } from '../clock';
import { type Acting, change, insertId } from '../db/change';
import { notFound, refused } from '../errors';
import { receiveLot } from './shelf';

export interface NewSingle {
  sku: string;
  name: string;
  family: Family;
  gaugeMm: number;
  coreMm: number;
  core: CoreMaterial;
  wrap: Material | null;
  massKgPerM: number | null;
  lengthMm: number;
  stringEnd: StringEnd;
  doubleLength: boolean;
  priceCents: number;
}

export interface NewSet {
  sku: string;
  name: string;
  family: Family;
  priceCents: number;
  items: { number: number; productId: number }[];
}

async function requireFreeSku(trx: Knex, sku: string): Promise<void> {
  if (await trx('product').where({ sku }).first())
    throw refused('sku-taken', 'This code is taken', `${sku} is another product. Give this one its own code.`);
}

/** Adds a single string to the catalogue. */
export async function addSingle(db: Knex, acting: Acting, p: NewSingle): Promise<{ productId: number }> {
  return change(db, acting, 'product.add-single', p, async (trx) => {
    await requireFreeSku(trx, p.sku);
    const productId = await insertId(trx, 'product', {
      sku: p.sku,
      name: p.name,
      kind: 'single',
      family: p.family,
      gauge_mm: p.gaugeMm,
      core_mm: p.coreMm,
      core: p.core,
      wrap: p.wrap,
      mass_kg_per_m: p.massKgPerM,
      length_mm: p.lengthMm,
      string_end: p.stringEnd,
      double_length: p.doubleLength,
      price_cents: p.priceCents,
    });
    return { result: { productId }, entity: 'product', entityId: productId };
  });
}

/** Adds a set of singles to the catalogue. */
export async function addSet(db: Knex, acting: Acting, p: NewSet): Promise<{ productId: number }> {
  return change(db, acting, 'product.add-set', p, async (trx) => {
    await requireFreeSku(trx, p.sku);
    const productId = await insertId(trx, 'product', {
      sku: p.sku,
      name: p.name,
      kind: 'set',
      family: p.family,
      price_cents: p.priceCents,
    });
    for (const item of p.items)
      await trx('set_item').insert({ set_id: productId, number: item.number, product_id: item.productId });
    return { result: { productId }, entity: 'product', entityId: productId };
  });
}

/** Takes a delivery of sealed packs into a place. */
export async function receive(
  db: Knex,
  acting: Acting,
  p: { productId: number; quantity: number; placeId: number; unitCostCents: number | null },
): Promise<{ lotId: number }> {
  return change(db, acting, 'stock.receive', p, async (trx) => {
    const product = await trx('product').where({ id: p.productId }).first();
    if (!product) throw notFound('This product');
    const programme = await trx('programme').first();
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
      },
      { personId: acting.personId, now: acting.now, recordId: null, reason: 'delivery' },
    );
    return { result: { lotId }, entity: 'lot', entityId: lotId };
  });
}

export interface ShelfLine {
  productId: number;
  name: string;
  family: Family | null;
  kind: 'set' | 'single';
  sets: number;
  sealed: number;
  opened: number;
  halves: number;
  priceCents: number;
}

/** What is on the shelves, by product; of one place or of all. */
export async function shelfLines(db: Knex, placeId: number | null): Promise<ShelfLine[]> {
  const rows = await db('product as p')
    .leftJoin('lot as l', 'l.product_id', 'p.id')
    .leftJoin('lot_balance as b', function () {
      this.on('b.lot_id', 'l.id');
      if (placeId !== null) this.andOnVal('b.place_id', placeId);
    })
    .groupBy('p.id')
    .orderBy([{ column: 'p.family' }, { column: 'p.kind', order: 'desc' }, { column: 'p.name' }])
    .select('p.id', 'p.name', 'p.family', 'p.kind', 'p.price_cents')
    .sum<
      {
        id: number;
        name: string;
        family: Family | null;
        kind: 'set' | 'single';
        price_cents: number;
        sets: number;
        sealed: number;
        opened: number;
        halves: number;
      }[]
    >({
      sets: db.raw("case when l.form = 'set' then b.on_hand else 0 end"),
      sealed: db.raw("case when l.form = 'single' and l.sealed then b.on_hand else 0 end"),
      opened: db.raw("case when l.form = 'single' and not l.sealed then b.on_hand else 0 end"),
      halves: db.raw("case when l.form = 'half' then b.on_hand else 0 end"),
    });
  return rows.map((r) => ({
    productId: r.id,
    name: r.name,
    family: r.family,
    kind: r.kind,
    sets: Number(r.sets ?? 0),
    sealed: Number(r.sealed ?? 0),
    opened: Number(r.opened ?? 0),
    halves: Number(r.halves ?? 0),
    priceCents: r.price_cents,
  }));
}
