import type { Knex } from 'knex';
import { count } from '../../core/count';
import { FAMILY_NAMES, type Family, type StringEnd } from '../../core/instruments/build';
import { usualBuild } from '../../core/procedures/houseMethod';
import type { CoreMaterial, Material } from '../../core/strings/materials';
import { type Acting, change, insertId } from '../db/change';
import { notFound, refused } from '../errors';

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

/**
 * A set or a hybrid that may be the house strings of a family.
 * @throws UserError not-found, `other-family`
 */
export async function requireSetFor(trx: Knex, setId: number, family: Family): Promise<void> {
  const set = await trx('product').where({ id: setId }).whereIn('kind', ['set', 'hybrid']).first();
  if (!set) throw notFound('This set');
  if (set.family !== family)
    throw refused(
      'other-family',
      'A set for another kind of instrument',
      `${set.name} is for ${FAMILY_NAMES[set.family as Family].toLowerCase()}; choose one for ${FAMILY_NAMES[family].toLowerCase()}.`,
    );
}

async function requireFreeSku(trx: Knex, sku: string): Promise<void> {
  if (await trx('product').where({ sku }).first())
    throw refused(
      'sku-taken',
      'This code is taken',
      `${sku} is already the code of another product. Use a different code.`,
    );
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
    await requireStrings(trx, p);
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

/** A set is of single strings, each position once, and only positions that its family has. */
async function requireStrings(trx: Knex, p: Pick<NewSet, 'family' | 'items'>): Promise<void> {
  const numbers = p.items.map((i) => i.number);
  if (new Set(numbers).size !== numbers.length)
    throw refused('positions', 'Each string once', 'A set has one string for each position.');
  const known = new Set(usualBuild(p.family).positions.map((x) => x.number));
  const unknown = numbers.find((n) => !known.has(n));
  if (unknown !== undefined)
    throw refused(
      'positions',
      'No such string',
      `${FAMILY_NAMES[p.family]} has no string ${unknown}; it has ${count(known.size, 'string')}.`,
    );
  for (const { number, productId } of p.items) {
    const product = await trx('product').where({ id: productId }).first();
    if (!product) throw notFound(`The string for position ${number}`);
    if (product.kind !== 'single')
      throw refused(
        'not-a-string',
        'Not a string',
        `${product.name} is not a single string. A set is made of single strings.`,
      );
  }
}
