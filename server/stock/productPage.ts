import type { Knex } from 'knex';
import { sayList } from '../../core/count';
import { daysBetween, type LocalDate, sayDay } from '../../core/dates';
import type { Family } from '../../core/instruments/build';
import type { Demand } from '../../core/stock/ahead';
import { croston } from '../../core/stock/quantities';
import { productOf, type StringProduct } from '../fleet/instruments';
import { demandOf, type PackAhead, stockAhead, WEEKS_AHEAD } from './ahead';
import {
  type FitRow,
  fitsOf,
  type LedgerLine,
  type LotLine,
  ledgerOf,
  lotsOf,
  substitutesOf,
  usedByWeek,
} from './catalogue';

/** The chance of doing without running short that orders are reckoned with on a product's page. */
const SERVICE = 0.95;
/** Weeks of use that its rhythm is read from, and how fast it follows. */
const RHYTHM = { weeks: 60, smoothing: 0.15 };
const PRICES_SHOWN = 12;

export interface ProductFacts {
  id: number;
  sku: string;
  name: string;
  kind: 'set' | 'single' | 'hybrid' | 'consumable';
  family: Family | null;
  stringEnd: string | null;
  doubleLength: boolean;
  marks: string | null;
  pack: number;
  priceCents: number;
  supplierId: number | null;
  version: number;
  /** The size a set is for; null: any it reaches. */
  size: string | null;
  least: number;
  retiredOn: LocalDate | null;
}

export interface ProductPage {
  product: ProductFacts;
  /** What is the case with it, in a few words, and whether it presses. */
  headline: string;
  pressing: boolean;
  /** What to order now. */
  order: string;
  /** What one of it is called, such as "sets". */
  unit: string;
  service: number;
  ahead: PackAhead | null;
  demand: Demand[];
  /** Breaks a week of each string of the pack. */
  breaks: [string, number][];
  rhythm: ReturnType<typeof croston> | null;
  single: StringProduct | null;
  /** Strings of a set, and the sets those of a hybrid come out of. */
  items: { number: number; id: number; name: string; outOf: string | null }[];
  /** Whether it lies anywhere by itself: a hybrid is a recipe. */
  lies: boolean;
  lots: LotLine[];
  ledger: LedgerLine[];
  fits: FitRow[];
  substitutes: Awaited<ReturnType<typeof substitutesOf>> | null;
  prices: { on: LocalDate; cents: number; supplier: string; orderId: number | null }[];
}

/** Everything the page of a product says; null where there is none of this number. */
export async function productPage(
  db: Knex,
  id: number,
  at: { today: LocalDate; a4Hz: number },
): Promise<ProductPage | null> {
  const row = await db('product').where({ id }).first();
  if (!row) return null;
  const product: ProductFacts = {
    id,
    sku: row.sku,
    name: row.name,
    kind: row.kind,
    family: row.family,
    stringEnd: row.string_end,
    doubleLength: Boolean(row.double_length),
    marks: row.marks,
    pack: row.pack,
    priceCents: row.price_cents,
    supplierId: row.supplier_id,
    version: row.version,
    size: row.size,
    least: row.least,
    retiredOn: row.retired_on,
  };
  const world = await stockAhead(db, { today: at.today, service: SERVICE });
  const ahead = world.packs.find((p) => p.productId === id) ?? null;
  const single = product.kind === 'single' ? productOf(row) : null;
  const parts: { number: number; name: string }[] =
    product.kind === 'hybrid'
      ? await db('recipe_part as r')
          .join('product as p', 'p.id', 'r.set_id')
          .where('r.hybrid_id', id)
          .select('r.number', 'p.name')
      : [];
  const strings: { number: number; id: number; name: string }[] = await db('set_item as i')
    .join('product as p', 'p.id', 'i.product_id')
    .where('i.set_id', id)
    .orderBy('i.number', 'desc')
    .select('i.number', 'p.id', 'p.name');
  const items = strings.map((i) => ({ ...i, outOf: parts.find((p) => p.number === i.number)?.name ?? null }));
  const lies = product.kind !== 'hybrid';
  const ids = lies ? [id, ...new Set(items.map((i) => i.id))] : [];
  const prices = await db('price as c')
    .leftJoin('supplier as s', 's.id', 'c.supplier_id')
    .where('c.product_id', id)
    .orderBy('c.id', 'desc')
    .limit(PRICES_SHOWN)
    .select('c.on_day', 'c.cents', 'c.order_id', 's.name as supplier');
  const demand = ahead ? (await demandOf(db, [ahead.pack], at.today))(ahead.pack) : [];
  const out = ahead?.outlook.runsOutOn ?? null;
  const own = new Set(ahead?.pack.items.map((i) => i.productId));
  return {
    product,
    headline: ahead ? sayAhead(ahead, demand.length > 0, at.today) : await sayPart(db, product, parts),
    pressing: out !== null && ahead !== null && daysBetween(at.today, out) <= ahead.leadDays,
    order: sayOrder(ahead, at.today),
    unit: product.kind === 'set' ? 'sets' : product.kind === 'consumable' ? row.unit || 'pieces' : 'strings',
    service: SERVICE,
    ahead,
    demand,
    breaks: [...world.breaks].filter(([productId]) => own.has(productId)),
    rhythm: ahead ? croston(await usedByWeek(db, id, at.today, RHYTHM.weeks), RHYTHM.smoothing) : null,
    single,
    items,
    lies,
    lots: await lotsOf(db, ids),
    ledger: await ledgerOf(db, ids),
    fits: await fitsOf(db, id, at.a4Hz),
    substitutes: single ? await substitutesOf(db, single) : null,
    prices: prices.map((p) => ({ on: p.on_day, cents: p.cents, supplier: p.supplier ?? '', orderId: p.order_id })),
  };
}

function sayAhead(ahead: PackAhead, asked: boolean, today: LocalDate): string {
  const { packs } = ahead.pack;
  if (ahead.kind === 'consumable')
    return packs < ahead.least
      ? `Only ${packs} in stock, minimum ${ahead.least}: order`
      : `${packs} in stock, minimum ${ahead.least}`;
  const out = ahead.outlook.runsOutOn;
  if (out) return daysBetween(today, out) <= 0 ? 'Short now' : `Short from ${sayDay(out, today)}`;
  return !asked && packs === 0
    ? `None in stock, and none needed in the next ${WEEKS_AHEAD} weeks`
    : `Lasts the next ${WEEKS_AHEAD} weeks`;
}

function sayOrder(ahead: PackAhead | null, today: LocalDate): string {
  if (!ahead || ahead.wanted <= 0) return 'nothing to order';
  const { sendBy } = ahead.rule;
  const when = !sendBy ? '' : sendBy < today ? ', overdue' : `, by ${sayDay(sendBy, today)}`;
  return `order ${ahead.wanted}${when}`;
}

/** What is said of what is not bought by itself: a hybrid, or a string of a set. */
async function sayPart(db: Knex, product: ProductFacts, parts: readonly { name: string }[]): Promise<string> {
  if (product.kind === 'hybrid') return `A hybrid of ${sayList([...new Set(parts.map((p) => p.name))])}`;
  const sets: string[] = await db('set_item as i')
    .join('product as p', 'p.id', 'i.set_id')
    .where({ 'i.product_id': product.id, 'p.kind': 'set' })
    .distinct()
    .pluck('p.name');
  return `Part of: ${sets.join(', ') || 'no set (sold singly)'}`;
}
