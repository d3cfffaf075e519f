import type { Knex } from 'knex';
import type { Family, StringEnd } from '../../core/instruments/build';
import type { CoreMaterial, Material } from '../../core/strings/materials';
import { type Acting, change, insertId } from '../db/change';
import { refused } from '../errors';

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
  coated?: boolean;
  hexCore?: boolean;
  flatWound?: boolean;
  windingMm?: number | null;
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
      coated: p.coated ?? false,
      hex_core: p.hexCore ?? false,
      flat_wound: p.flatWound ?? false,
      winding_mm: p.windingMm ?? null,
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
  const products = await db('product').orderBy([
    { column: 'family' },
    { column: 'kind', order: 'desc' },
    { column: 'name' },
  ]);
  // From the balances, which are few, not from the lots, which are all there ever were.
  const balances = db('lot_balance as b')
    .join('lot as l', 'l.id', 'b.lot_id')
    .groupBy('l.product_id', 'l.form', 'l.sealed');
  if (placeId !== null) balances.where('b.place_id', placeId);
  const sums: { product_id: number; form: string; sealed: number; n: number }[] = await balances
    .select('l.product_id', 'l.form', 'l.sealed')
    .sum({ n: 'b.on_hand' });
  const onHand = new Map(sums.map((s) => [`${s.product_id}/${s.form}/${Boolean(s.sealed)}`, Number(s.n)]));
  const at = (id: number, form: string, sealed: boolean) => onHand.get(`${id}/${form}/${sealed}`) ?? 0;
  return products.map((r) => ({
    productId: r.id,
    name: r.name,
    family: r.family,
    kind: r.kind,
    sets: at(r.id, 'set', true) + at(r.id, 'set', false),
    sealed: at(r.id, 'single', true),
    opened: at(r.id, 'single', false),
    halves: at(r.id, 'half', true) + at(r.id, 'half', false),
    priceCents: r.price_cents,
  }));
}
