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
  /** How the maker marks its envelopes or ball ends, as recorded. */
  marks?: string;
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
      marks: p.marks ?? '',
    });
    for (const item of p.items)
      await trx('set_item').insert({ set_id: productId, number: item.number, product_id: item.productId });
    return { result: { productId }, entity: 'product', entityId: productId };
  });
}
