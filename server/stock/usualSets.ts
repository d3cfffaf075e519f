import type { Knex } from 'knex';
import { FAMILY_NAMES, SIZES } from '../../core/instruments/build';
import { defaultBuild } from '../../core/instruments/defaults';
import type { UsualSet } from '../../core/strings/usualSets';
import { insertId } from '../db/change';
import { refused } from '../errors';

/**
 * Writes a set and its single strings into the catalogue. A set of that code is taken as it is.
 * @param more.single only the one string, no set
 * @returns the set (-1 where there is none), and the singles that were made
 */
export async function addUsualSet(
  trx: Knex,
  p: UsualSet,
  more: { priceCents?: number; single?: boolean; marks?: string } = {},
): Promise<{ setId: number; singles: number[] }> {
  const there = await trx('product').where({ sku: p.sku }).first();
  if (there) {
    if (there.kind === 'set' && there.family === p.family && !more.single) return { setId: there.id, singles: [] };
    throw refused(
      'sku-taken',
      'This code is taken',
      `${p.sku} is already the code of another product. Use a different code.`,
    );
  }
  const size = p.size ?? SIZES[p.family][0] ?? '4/4';
  const notes = new Map(defaultBuild(p.family, size).positions.map((x) => [x.number, x.note]));
  const price = more.priceCents ?? 0;
  const singles: number[] = [];
  const items: { number: number; product_id: number }[] = [];
  for (const s of p.strings) {
    // Strings of one course may be the same: one product, twice in the set.
    const twin = items.find((_, i) => {
      const other = p.strings[i];
      return other && other.gaugeMm === s.gaugeMm && other.wrap === s.wrap && other.core === s.core;
    });
    if (twin) {
      items.push({ number: s.number, product_id: twin.product_id });
      continue;
    }
    const sku = more.single ? p.sku : `${p.sku}-${s.number}`.slice(0, 28);
    const before = await trx('product').where({ sku }).first();
    if (before) {
      items.push({ number: s.number, product_id: before.id });
      continue;
    }
    const id = await insertId(trx, 'product', {
      sku,
      name: more.single ? p.name : `${p.name}, ${notes.get(s.number) ?? `string ${s.number}`}`.slice(0, 120),
      kind: 'single',
      family: p.family,
      gauge_mm: s.gaugeMm,
      core_mm: s.coreMm,
      core: s.core,
      wrap: s.wrap,
      mass_kg_per_m: s.massKgPerM,
      length_mm: Math.round(s.lengthMm),
      string_end: p.end,
      double_length: false,
      price_cents: more.single ? price : Math.round(price / Math.max(1, p.strings.length)),
    });
    singles.push(id);
    items.push({ number: s.number, product_id: id });
  }
  if (more.single) return { setId: -1, singles };
  if (items.length === 0)
    throw refused('no-strings', 'A set without strings', `${FAMILY_NAMES[p.family]}: add the strings of this set.`);
  const setId = await insertId(trx, 'product', {
    sku: p.sku,
    name: p.name,
    kind: 'set',
    family: p.family,
    size: p.size,
    price_cents: price,
    marks: more.marks ?? '',
  });
  for (const item of items) await trx('set_item').insert({ set_id: setId, ...item });
  return { setId, singles };
}
