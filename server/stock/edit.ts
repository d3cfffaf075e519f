import type { Knex } from 'knex';
import type { EditProduct, WholeSet } from '../../contract/stock';
import { count, plural } from '../../core/count';
import { FAMILY_NAMES, SIZES } from '../../core/instruments/build';
import { defaultBuild } from '../../core/instruments/defaults';
import { readGauges, stringsSaid } from '../../core/strings/gauges';
import { usualSetsFor } from '../../core/strings/usualSets';
import { localDate } from '../clock';
import { among } from '../db/among';
import { type Acting, change } from '../db/change';
import { conflict, notFound, refused } from '../errors';
import { refreshStates } from '../fleet/state';
import { programmeRow } from '../programme/programme';
import { addUsualSet } from './usualSets';

/**
 * Renames a product, gives it another price, says which size it is for, or retires it and brings it back. What lies of it
 * on the shelf keeps what was paid for it.
 * @throws UserError not-found, conflict, `sku-taken`, `still-used`
 */
export async function editProduct(
  db: Knex,
  acting: Acting,
  p: EditProduct & { id: number },
): Promise<{ version: number }> {
  return change(db, acting, 'product.edit', p, async (trx) => {
    const before = await trx('product').where({ id: p.id }).first();
    if (!before) throw notFound('This product');
    if (before.version !== p.expectedVersion)
      throw conflict(`Someone else has changed ${before.name}. Reload to see it, then change it again.`, {
        currentVersion: before.version,
        current: { sku: before.sku, name: before.name, priceCents: before.price_cents },
      });
    const taken = await trx('product').where({ sku: p.sku }).whereNot({ id: p.id }).first();
    if (taken)
      throw refused(
        'sku-taken',
        'This code is taken',
        `${p.sku} is already the code of ${taken.name}. Use a different code.`,
      );
    if (p.size !== null && before.family && !SIZES[before.family].includes(p.size))
      throw refused(
        'size',
        'No such size',
        `${FAMILY_NAMES[before.family]} comes in these sizes: ${SIZES[before.family].join(', ')}.`,
      );
    const { time_zone: timeZone } = await programmeRow(trx);
    const today = localDate(acting.now, timeZone);
    if (p.retired && before.retired_on === null) {
      const used = await trx('instrument').where({ house_set_id: p.id }).whereNull('retired_on').limit(6).pluck('tag');
      if (used.length > 0)
        throw refused(
          'still-used',
          'Still a usual set',
          `${used.join(', ')} ${plural(used.length, 'has', 'have')} it as the usual set. Choose another set for them first.`,
        );
    }
    await trx('product')
      .where({ id: p.id })
      .update({
        sku: p.sku,
        name: p.name,
        price_cents: p.price,
        size: before.kind === 'set' ? p.size : null,
        marks: p.marks ?? before.marks,
        least: p.least ?? before.least,
        retired_on: p.retired ? (before.retired_on ?? today) : null,
        version: before.version + 1,
      });
    if (p.price !== before.price_cents)
      await trx('price').insert({
        product_id: p.id,
        supplier_id: before.supplier_id,
        cents: p.price,
        on_day: today,
        order_id: null,
      });
    if (p.name !== before.name) {
      const ids: number[] = await trx('instrument').where({ house_set_id: p.id }).pluck('id');
      await refreshStates(trx, ids, { now: acting.now, timeZone });
    }
    return { result: { version: before.version + 1 }, entity: 'product', entityId: p.id, detail: { before, after: p } };
  });
}

/** Adds a set with its single strings in one go. @throws UserError `sku-taken`, `gauges` */
export async function addWholeSet(db: Knex, acting: Acting, p: WholeSet): Promise<{ productId: number }> {
  return change(db, acting, 'product.add-whole-set', p, async (trx) => {
    if (await trx('product').where({ sku: p.sku }).first())
      throw refused(
        'sku-taken',
        'This code is taken',
        `${p.sku} is already the code of another product. Use a different code.`,
      );
    const size = p.size ?? (SIZES[p.family][0] as string);
    if (!SIZES[p.family].includes(size))
      throw refused(
        'size',
        'No such size',
        `${FAMILY_NAMES[p.family]} comes in these sizes: ${SIZES[p.family].join(', ')}.`,
      );
    const gauges = readGauges(p.gauges);
    const strings = defaultBuild(p.family, size).positions.length;
    if (gauges.length !== strings || gauges.some((g) => g.thou < 4 || g.thou > 400))
      throw refused(
        'gauges',
        'One gauge for each string',
        `${FAMILY_NAMES[p.family]} has ${count(strings, 'string')}: enter ${count(strings, 'gauge')} in thousandths of an inch, thinnest first, with a w after each wound one.`,
      );
    const { setId } = await addUsualSet(
      trx,
      {
        sku: p.sku,
        name: p.name,
        family: p.family,
        size: p.size,
        end: p.stringEnd,
        strings: stringsSaid({ family: p.family, size, gauges, core: p.core, wrap: p.wrap, lengthMm: p.lengthMm }),
      },
      { priceCents: p.price, marks: p.marks },
    );
    return { result: { productId: setId }, entity: 'product', entityId: setId };
  });
}

/** Puts a usual set into Stock's catalogue, with its strings. @throws UserError not-found */
export async function takeUsualSet(
  db: Knex,
  acting: Acting,
  p: { family: WholeSet['family']; size: string; sku: string },
): Promise<{ productId: number }> {
  return change(db, acting, 'product.usual-set', p, async (trx) => {
    const usual = SIZES[p.family].includes(p.size)
      ? usualSetsFor(p.family, p.size).find((u) => u.sku === p.sku)
      : undefined;
    if (!usual) throw notFound('This set');
    const { setId } = await addUsualSet(trx, usual);
    return { result: { productId: setId }, entity: 'product', entityId: setId };
  });
}

/** Kinds of instruments that are here, each with how many, and how many have no usual set. */
export async function kindsHere(
  db: Knex,
): Promise<{ family: WholeSet['family']; size: string; n: number; unstrung: number }[]> {
  const rows = await db('instrument')
    .whereNull('retired_on')
    .groupBy(['family', 'size'])
    .orderBy(['family', 'size'])
    .select('family', 'size')
    .count({ n: '*' })
    .sum({ unstrung: db.raw('house_set_id is null') });
  return (rows as unknown as { family: WholeSet['family']; size: string; n: number; unstrung: number }[]).map((r) => ({
    ...r,
    n: Number(r.n),
    unstrung: Number(r.unstrung),
  }));
}

/** Gives all instruments of a kind that have none a usual set. */
export const unstrungOf = (db: Knex, p: { family: WholeSet['family']; size: string }): Promise<string[]> =>
  db('instrument').where(p).whereNull('house_set_id').whereNull('retired_on').pluck('tag');

/** Which of some codes are products already, by id. */
export async function idsOfSkus(db: Knex, skus: readonly string[]): Promise<Map<string, number>> {
  const rows = await db('product').whereIn('sku', among(db, skus)).select('id', 'sku');
  return new Map(rows.map((r) => [r.sku, r.id]));
}
