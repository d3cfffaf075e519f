import type { Knex } from 'knex';
import { addDays, type LocalDate } from '../../core/dates';
import { type Build, describeBuild, type Family, SIZES } from '../../core/instruments/build';
import { defaultBuild } from '../../core/instruments/defaults';
import type { SmallPart } from '../../core/parts/smallParts';
import { type Fit, fitOf } from '../../core/stock/fits';
import { sayReason } from '../../core/stock/why';
import { among } from '../db/among';
import { type Acting, change, insertId } from '../db/change';
import { must } from '../db/must';
import { requireSeen } from '../db/seen';
import { untilWritten } from '../db/written';
import { notFound, refused } from '../errors';
import { stringToFit } from '../fleet/fit';
import { type Instrument, loadInstrument, loadProducts, type StringProduct } from '../fleet/instruments';
import { refreshInstrument } from '../fleet/state';
import { programmeRow } from '../programme/programme';
import { requireSetFor } from './products';
import { notTakenBack } from './shelf';
import { approvedSubstitutes, nearStrings } from './substitutes';

/** Products of a kind, for choosing one; those that are not used any more are left out. */
export const productChoices = (
  db: Knex,
  kind: 'set' | 'single',
): Promise<readonly { id: number; name: string; family: Family }[]> =>
  untilWritten(db, `choices/${kind}`, () =>
    db('product').where({ kind }).whereNull('retired_on').orderBy(['family', 'name']).select('id', 'name', 'family'),
  );

/** What every product is called, and how many of it are bought at a time. */
export async function productNames(db: Knex): Promise<Map<number, { name: string; pack: number }>> {
  const rows = await db('product').select('id', 'name', 'pack');
  return new Map(rows.map((r) => [r.id, { name: r.name, pack: r.pack }]));
}

/** Codes of products, by id. */
export async function skusOf(db: Knex, ids: readonly number[]): Promise<Map<number, string>> {
  return new Map((await db('product').whereIn('id', among(db, ids)).select('id', 'sku')).map((r) => [r.id, r.sku]));
}

/** A lot as its label says it. */
export interface LotLabel {
  lotId: number;
  productId: number;
  sku: string;
  name: string;
  form: string;
  receivedOn: LocalDate;
  /** What the maker printed on it. */
  batch: string;
}

/** Lots of these numbers, as far as there are any. */
export async function lotLabels(db: Knex, ids: readonly number[]): Promise<LotLabel[]> {
  const rows = await db('lot as l')
    .join('product as p', 'p.id', 'l.product_id')
    .whereIn('l.id', among(db, ids))
    .orderBy('l.id')
    .select('l.id', 'l.product_id', 'l.form', 'l.received_on', 'l.label', 'p.name', 'p.sku');
  return rows.map((r) => ({
    lotId: r.id,
    productId: r.product_id,
    sku: r.sku,
    name: r.name,
    form: r.form,
    receivedOn: r.received_on,
    batch: r.label ?? '',
  }));
}

/** Something that is used up beside strings, with the quantity there should always be. */
export async function addConsumable(
  db: Knex,
  acting: Acting,
  p: { sku: string; name: string; unit: string; least: number; priceCents: number; smallPart?: SmallPart | '' },
): Promise<{ productId: number }> {
  return change(db, acting, 'product.add-consumable', p, async (trx) => {
    if (await trx('product').where({ sku: p.sku }).first())
      throw refused(
        'sku-taken',
        'This code is taken',
        `${p.sku} is already the code of another product. Use a different code.`,
      );
    const productId = await insertId(trx, 'product', {
      sku: p.sku,
      name: p.name,
      kind: 'consumable',
      unit: p.unit,
      least: p.least,
      price_cents: p.priceCents,
      small_part: p.smallPart ?? '',
    });
    return { result: { productId }, entity: 'product', entityId: productId };
  });
}

/**
 * A hybrid: some positions out of one set, the others out of another, as a recipe. It is not bought; instruments strung
 * with it ask for its strings, and what its sets leave over stays on the shelf.
 */
export async function addHybrid(
  db: Knex,
  acting: Acting,
  p: { sku: string; name: string; family: Family; parts: { setId: number; numbers: number[] }[] },
): Promise<{ productId: number }> {
  return change(db, acting, 'product.add-hybrid', p, async (trx) => {
    if (await trx('product').where({ sku: p.sku }).first())
      throw refused(
        'sku-taken',
        'This code is taken',
        `${p.sku} is already the code of another product. Use a different code.`,
      );
    const numbers = p.parts.flatMap((x) => x.numbers);
    if (new Set(numbers).size !== numbers.length || numbers.length === 0)
      throw refused('positions', 'Each string once', 'Choose each string once, from one set only.');
    if (p.parts.length < 2)
      throw refused('two-sets', 'At least two sets', 'A hybrid takes its strings from more than one set.');
    const productId = await insertId(trx, 'product', {
      sku: p.sku,
      name: p.name,
      kind: 'hybrid',
      family: p.family,
      price_cents: 0,
    });
    let price = 0;
    for (const part of p.parts)
      for (const number of part.numbers) {
        await requireSetFor(trx, part.setId, p.family);
        const item = await trx('set_item').where({ set_id: part.setId, number }).first();
        if (!item) throw refused('no-item', 'Not in that set', `That set has no string ${number}.`);
        await trx('recipe_part').insert({ hybrid_id: productId, number, set_id: part.setId });
        await trx('set_item').insert({ set_id: productId, number, product_id: item.product_id });
        price += must(await trx('product').where({ id: item.product_id }).first()).price_cents;
      }
    await trx('product').where({ id: productId }).update({ price_cents: price });
    return { result: { productId }, entity: 'product', entityId: productId };
  });
}

/** Writes a set down as the usual one of an instrument, string by string. @throws UserError `no-strings` */
export async function putHouseStrings(
  trx: Knex,
  instrument: Pick<Instrument, 'id' | 'positions' | 'version'>,
  productId: number,
): Promise<void> {
  const items = await trx('set_item').where({ set_id: productId });
  const covered = instrument.positions.filter((x) => items.some((i) => i.number === x.number));
  if (covered.length === 0)
    throw refused(
      'no-strings',
      'This set does not fit',
      'This set has none of the instrument’s strings. Choose a set for its family.',
    );
  for (const x of covered)
    await trx('instrument_position')
      .where({ instrument_id: instrument.id, number: x.number })
      .update({ house_product_id: items.find((i) => i.number === x.number)?.product_id });
  await trx('instrument')
    .where({ id: instrument.id })
    .update({ house_set_id: productId, version: instrument.version + 1 });
}

/** Makes a set or a hybrid the house strings of an instrument, with the reason where it is not what fits best. */
export async function giveHouseStrings(
  db: Knex,
  acting: Acting,
  p: { tag: string; productId: number; expectedVersion: number },
): Promise<{ tag: string }> {
  return change(db, acting, 'instrument.house-strings', p, async (trx) => {
    const instrument = await loadInstrument(trx, { tag: p.tag });
    if (instrument.version !== p.expectedVersion)
      throw refused('stale', 'Changed in the meantime', `Someone else has changed ${p.tag}. Reload it first.`);
    await requireSetFor(trx, p.productId, instrument.build.family);
    await putHouseStrings(trx, instrument, p.productId);
    const programme = await programmeRow(trx);
    await refreshInstrument(trx, instrument.id, { now: acting.now, timeZone: programme.time_zone });
    return { result: { tag: p.tag }, entity: 'instrument', entityId: instrument.id };
  });
}

/** What may be taken instead, in order of preference. */
export async function setSubstitutes(
  db: Knex,
  acting: Acting,
  p: { productId: number; substituteIds: number[]; was?: string | undefined },
): Promise<{ productId: number }> {
  return change(db, acting, 'product.substitutes', p, async (trx) => {
    const product = await trx('product').where({ id: p.productId, kind: 'single' }).first();
    if (!product) throw notFound('This string');
    const before: number[] = await trx('substitute')
      .where({ product_id: p.productId })
      .orderBy('rank')
      .pluck('substitute_id');
    requireSeen(p.was, before.join(), before.length === 0 ? 'without a substitute' : `${before.length} in all`);
    await trx('substitute').where({ product_id: p.productId }).del();
    for (const [rank, id] of [...new Set(p.substituteIds)].entries()) {
      const other = await trx('product').where({ id, kind: 'single' }).first();
      if (!other || id === p.productId)
        throw refused('no-substitute', 'Not a string', 'Choose other single strings as substitutes.');
      await trx('substitute').insert({ product_id: p.productId, substitute_id: id, rank });
    }
    return { result: { productId: p.productId }, entity: 'product', entityId: p.productId };
  });
}

export interface SubstituteView {
  productId: number;
  name: string;
  /** Change of pull at the same pitch, as a share; change of length in mm. */
  tensionChange: number;
  lengthChangeMm: number;
}

/** Strings that may, or could, stand in for one, with what changes. */
export async function substitutesOf(
  db: Knex,
  product: StringProduct,
): Promise<{ chosen: SubstituteView[]; could: SubstituteView[] }> {
  const approved = (await approvedSubstitutes(db, [product.id])).get(product.id) ?? [];
  const known = await loadProducts(db, approved);
  const view = (s: StringProduct): SubstituteView => ({
    productId: s.id,
    name: s.name,
    tensionChange: s.massKgPerM / product.massKgPerM - 1,
    lengthChangeMm: s.lengthMm - product.lengthMm,
  });
  const chosen = approved.flatMap((id) => known.get(id) ?? []).map(view);
  const could = (await nearStrings(db, product))
    .filter((c) => !approved.includes(c.id))
    .map(view)
    .filter((c) => Math.abs(c.tensionChange) < 0.25)
    .sort((a, b) => Math.abs(a.tensionChange) - Math.abs(b.tensionChange))
    .slice(0, 5);
  return { chosen, could };
}

export interface FitRow extends Fit {
  family: Family;
  size: string;
  name: string;
  /** Instruments of this build that have it as their house strings. */
  instruments: number;
}

/** Which sizes of its family a set fits, computed from its strings on the usual build of each. */
export async function fitsOf(db: Knex, productId: number, a4Hz: number): Promise<FitRow[]> {
  const set = await db('product').where({ id: productId }).first();
  // A single string is judged at the positions it has in sets.
  const items =
    set?.kind === 'single'
      ? await db('set_item as i')
          .join('product as p', 'p.id', 'i.set_id')
          .where({ 'i.product_id': productId, 'p.kind': 'set' })
          .select('i.number', 'i.product_id')
      : await db('set_item').where({ set_id: productId });
  if (!set?.family || items.length === 0) return [];
  const products = await loadProducts(
    db,
    items.map((i) => i.product_id),
  );
  const counts: { size: string; n: number }[] = await db('instrument')
    .whereNull('retired_on')
    .where((q) =>
      set.kind === 'single'
        ? q.whereIn('id', db('instrument_position').where({ house_product_id: productId }).select('instrument_id'))
        : q.where({ house_set_id: productId }),
    )
    .groupBy('size')
    .select('size')
    .count({ n: '*' });
  const family = set.family as Family;
  return SIZES[family].map((size) => {
    const build: Build = defaultBuild(family, size);
    const strings = items.flatMap((i) => {
      const product = products.get(i.product_id);
      return product ? [stringToFit({ number: i.number }, product, false)] : [];
    });
    return {
      ...fitOf(build, strings, a4Hz),
      family,
      size,
      name: describeBuild(family, size),
      instruments: Number(counts.find((c) => c.size === size)?.n ?? 0),
    };
  });
}

/** Packs opened or strings used week by week, the oldest first; demand that comes now and then is forecast from it. */
export async function usedByWeek(db: Knex, productId: number, today: LocalDate, weeks: number): Promise<number[]> {
  const from = Date.parse(`${addDays(today, -7 * weeks)}T00:00:00Z`);
  const rows = await db('stock_move as m')
    .join('lot as l', 'l.id', 'm.lot_id')
    .where('l.product_id', productId)
    .whereIn('m.kind', ['open-set', 'use', 'scrap'])
    .where('m.at', '>=', from)
    .whereNotExists(notTakenBack(db))
    .select('m.at', 'm.quantity');
  const used = new Array<number>(weeks).fill(0);
  for (const r of rows) {
    const week = Math.min(weeks - 1, Math.floor((r.at - from) / (7 * 86_400_000)));
    used[week] = (used[week] ?? 0) - r.quantity;
  }
  return used;
}

export interface LedgerLine {
  id: number;
  at: number;
  by: string;
  place: string;
  kind: string;
  form: string;
  what: string;
  quantity: number;
  valueCents: number;
  reason: string;
  tag: string | null;
  takenBack: boolean;
  canTakeBack: boolean;
}

/** The ledger of a product and of the strings of a set, the latest first. */
export async function ledgerOf(db: Knex, productIds: readonly number[], limit = 60): Promise<LedgerLine[]> {
  // The latest first, by what the index alone knows; only these are looked up in full.
  const ids: number[] = await db('stock_move')
    .whereIn('lot_id', db('lot').whereIn('product_id', among(db, productIds)).select('id'))
    .orderBy('id', 'desc')
    .limit(limit)
    .pluck('id');
  const rows = await db('stock_move as m')
    .join('lot as l', 'l.id', 'm.lot_id')
    .join('product as p', 'p.id', 'l.product_id')
    .join('person as w', 'w.id', 'm.person_id')
    .join('place as s', 's.id', 'm.place_id')
    .leftJoin('change_record as r', 'r.id', 'm.record_id')
    .leftJoin('job as j', 'j.id', db.raw('coalesce(r.job_id, m.job_id)') as never)
    .leftJoin('instrument as i', 'i.id', 'j.instrument_id')
    .whereIn('m.id', among(db, ids))
    .orderBy('m.id', 'desc')
    .select('m.*', 'l.form', 'p.name as what', 'w.name as by', 's.name as place', 'i.tag');
  const reversed = new Set(
    await db('stock_move')
      .whereIn(
        'reverses_id',
        among(
          db,
          rows.map((r) => r.id),
        ),
      )
      .pluck('reverses_id'),
  );
  return rows.map((r) => ({
    id: r.id,
    at: r.at,
    by: r.by,
    place: r.place,
    kind: r.kind,
    form: r.form,
    what: r.what,
    quantity: r.quantity,
    valueCents: r.value_cents,
    reason: sayReason(r.why, r.reason),
    tag: r.tag,
    takenBack: reversed.has(r.id),
    canTakeBack: r.record_id === null && r.job_id === null && r.reverses_id === null && !reversed.has(r.id),
  }));
}

export interface LotLine {
  lotId: number;
  placeId: number;
  place: string;
  productId: number;
  name: string;
  form: 'set' | 'single' | 'half';
  sealed: boolean;
  receivedOn: string;
  label: string;
  onHand: number;
  reserved: number;
  valueCents: number;
  doubleLength: boolean;
}

/** Lots that lie somewhere, in the order in which they are used. */
export async function lotsOf(db: Knex, productIds: readonly number[]): Promise<LotLine[]> {
  const rows = await db('lot_balance as b')
    .join('lot as l', 'l.id', 'b.lot_id')
    .join('product as p', 'p.id', 'l.product_id')
    .join('place as s', 's.id', 'b.place_id')
    .whereIn('l.product_id', among(db, productIds))
    .orderBy([{ column: 'l.sealed' }, { column: 'l.received_on' }, { column: 'l.id' }])
    .select(
      'b.*',
      'l.product_id',
      'l.form',
      'l.sealed',
      'l.received_on',
      'l.label',
      'p.name',
      'p.double_length',
      's.name as place',
    );
  const claims = await db('reserved').whereIn(
    'lot_id',
    among(
      db,
      rows.map((r) => r.lot_id),
    ),
  );
  return rows.map((r) => ({
    lotId: r.lot_id,
    placeId: r.place_id,
    place: r.place,
    productId: r.product_id,
    name: r.name,
    form: r.form,
    sealed: Boolean(r.sealed),
    receivedOn: r.received_on,
    label: r.label,
    onHand: r.on_hand,
    reserved: claims
      .filter((c) => c.lot_id === r.lot_id && c.place_id === r.place_id)
      .reduce((sum, c) => sum + c.quantity, 0),
    valueCents: r.value_cents,
    doubleLength: Boolean(r.double_length),
  }));
}
