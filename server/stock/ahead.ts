import { group } from 'd3-array';
import type { Knex } from 'knex';
import { seededChance } from '../../core/chance';
import { addDays, type LocalDate, later } from '../../core/dates';
import type { Family } from '../../core/instruments/build';
import {
  type Breaks,
  type Demand,
  lateWithout,
  type Outlook,
  outlook,
  type Pack,
  type ReorderRule,
  reorderRule,
} from '../../core/stock/ahead';
import type { ProposalLine, ProposalSupplier } from '../../core/stock/proposal';
import { breakRate, economicOrderQuantity } from '../../core/stock/quantities';
import { among } from '../db/among';
import * as columns from '../db/columns';
import { oncePerDay, untilChanged } from '../db/memo';
import { dueWorkOf } from '../work/due';
import { comingLines, loadSuppliers, type Supplier } from './orders';
import { notTakenBack, setContents } from './shelf';

/** How far ahead the shelf is looked at. */
export const WEEKS_AHEAD = 14;
/** Futures drawn for the list; a product's own page draws more. */
const DRAWS = 200;
/** Breaks of a string by chance a week, where nothing is known, and how much watching that is worth. No source. */
const USUAL_BREAKS = 0.0015;
const WATCHED_STRING_WEEKS = 400;
/** History that breaks are learned from. */
const HISTORY_DAYS = 420;
/** Cost of keeping a pack for a year, as a share of its price. Common practice, no source. */
const HOLDING_SHARE = 0.2;
/** Lead time where no supplier is known. */
const UNKNOWN_LEAD_DAYS = 14;
/** An order lasts about so long beside the lead time. */
const CYCLE_DAYS = 42;

export interface PackAhead {
  pack: Pack;
  productId: number;
  name: string;
  family: Family | null;
  kind: 'set' | 'single' | 'hybrid' | 'consumable';
  /** Sealed packs a job has set aside. */
  spokenFor: number;
  loose: { productId: number; name: string; wholes: number; halves: number }[];
  underWay: number;
  valueCents: number;
  supplier: Supplier | null;
  unit: number;
  cents: number;
  leadDays: number;
  least: number;
  outlook: Outlook;
  rule: ReorderRule;
  /** Packs an order is due for now; 0 while the rule does not ask. */
  wanted: number;
}

interface World {
  packs: PackAhead[];
  demand: Demand[];
  breaks: Breaks;
}

/** The whole shelf looked at weeks ahead: every pack with what it will be asked for and when it runs short. */
export async function stockAhead(db: Knex, p: { today: LocalDate; service: number }): Promise<World> {
  return untilChanged(db, `ahead/${p.service}`, p.today, () => lookAhead(db, p));
}

async function lookAhead(db: Knex, p: { today: LocalDate; service: number }): Promise<World> {
  const until = addDays(p.today, 7 * WEEKS_AHEAD - 1);
  const products = await db('product').whereNull('retired_on').whereNot({ kind: 'hybrid' });
  const contents = await setContents(db);
  const suppliers = new Map((await loadSuppliers(db)).map((s) => [s.id, s]));
  const demand = await dueDemand(db, p.today, until);
  // Rates change slowly: they are learned once a day.
  const { breaks, opened } = await oncePerDay(db, 'breaks', p.today, () => history(db, p.today));
  const balances: { product_id: number; form: string; sealed: number; n: number; value: number }[] = await db(
    'lot_balance as b',
  )
    .join('lot as l', 'l.id', 'b.lot_id')
    .groupBy('l.product_id', 'l.form', 'l.sealed')
    .select('l.product_id', 'l.form', 'l.sealed')
    .sum({ n: 'b.on_hand', value: 'b.value_cents' });
  const claims: { product_id: number; form: string; n: number }[] = await db('reserved as r')
    .join('lot as l', 'l.id', 'r.lot_id')
    .groupBy('l.product_id', 'l.form')
    .select('l.product_id', 'l.form')
    .sum({ n: 'r.quantity' });
  const coming = await comingLines(db);
  const onHand = (productId: number, form: string) =>
    balances.filter((b) => b.product_id === productId && b.form === form).reduce((sum, b) => sum + Number(b.n), 0);
  const value = (productId: number) =>
    balances.filter((b) => b.product_id === productId).reduce((sum, b) => sum + Number(b.value), 0);
  const nameOf = new Map(products.map((r) => [r.id as number, r.name as string]));
  const inSet = new Set([...contents.values()].flat().map((i) => Number(i.productId)));
  const byProduct = new Map<string, Demand[]>();
  for (const d of demand) {
    const same = byProduct.get(d.productId);
    if (same) same.push(d);
    else byProduct.set(d.productId, [d]);
  }

  const packs = products.flatMap((r): PackAhead[] => {
    // A string that comes in a set is bought as the set.
    if (r.kind === 'single' && inSet.has(r.id)) return [];
    const items =
      r.kind === 'set'
        ? (contents.get(String(r.id)) ?? [])
        : r.kind === 'single'
          ? [{ productId: String(r.id), count: 1 }]
          : [];
    const looseOf = (productId: number) => ({
      wholes: r.kind === 'single' && productId === r.id ? 0 : onHand(productId, 'single'),
      halves: onHand(productId, 'half'),
    });
    const arrivals = coming
      .filter((c) => c.productId === r.id)
      .map((c) => ({ on: later(c.expectedOn, p.today), packs: c.packs }));
    const packCount = onHand(r.id, r.kind === 'set' ? 'set' : 'single');
    const pack: Pack = {
      productId: String(r.id),
      items,
      packs: packCount,
      looseHalves: new Map(
        items.map((i) => {
          const l = looseOf(Number(i.productId));
          return [i.productId, 2 * l.wholes + l.halves];
        }),
      ),
      arrivals,
    };
    const own = items.flatMap((i) => byProduct.get(i.productId) ?? []);
    const supplier = suppliers.get(r.supplier_id ?? -1) ?? null;
    const leadDays = supplier?.leadDays ?? UNKNOWN_LEAD_DAYS;
    const look = outlook(pack, own, breaks, {
      today: p.today,
      weeks: WEEKS_AHEAD,
      leadDays,
      draws: items.some((i) => (breaks.get(i.productId) ?? 0) > 0) ? DRAWS : 1,
      random: seededChance(r.id),
    });
    const perYear = opened.get(r.id) ?? 0;
    const rule = reorderRule(pack, own, breaks, {
      today: p.today,
      leadDays,
      service: p.service,
      // Strings age on the shelf: never more than lasts half a year.
      economic: Math.min(
        perYear / 2,
        economicOrderQuantity({
          demandPerYear: perYear,
          orderCost: supplier?.orderCostCents ?? 0,
          holdingPerYear: Math.max(1, HOLDING_SHARE * r.price_cents),
        }),
      ),
      cycleDays: CYCLE_DAYS,
      unit: Math.max(1, r.pack),
    });
    const underWay = arrivals.reduce((sum, a) => sum + a.packs, 0);
    const position = packCount + underWay;
    // A least quantity is kept whatever the forecast says; a set nobody uses is not bought again.
    const floor = r.least > position ? Math.ceil((r.least - position) / Math.max(1, r.pack)) * Math.max(1, r.pack) : 0;
    const used =
      own.length > 0 || items.some((i) => (opened.get(Number(i.productId)) ?? 0) > 0) || (opened.get(r.id) ?? 0) > 0;
    const asks = used && items.length > 0 && position <= rule.point;
    return [
      {
        pack,
        productId: r.id,
        name: r.name,
        family: r.family,
        kind: r.kind,
        spokenFor: claims
          .filter((c) => c.product_id === r.id && c.form === (r.kind === 'set' ? 'set' : 'single'))
          .reduce((sum, c) => sum + Number(c.n), 0),
        loose: items
          .filter((i) => Number(i.productId) !== r.id || r.double_length)
          .map((i) => ({
            productId: Number(i.productId),
            name: nameOf.get(Number(i.productId)) ?? '',
            ...looseOf(Number(i.productId)),
          })),
        underWay,
        valueCents:
          value(r.id) +
          items.reduce((sum, i) => sum + (Number(i.productId) === r.id ? 0 : value(Number(i.productId))), 0),
        supplier,
        unit: Math.max(1, r.pack),
        cents: r.price_cents,
        leadDays,
        least: r.least,
        outlook: look,
        rule,
        wanted: Math.max(floor, asks ? rule.quantity : 0),
      },
    ];
  });
  return { packs, demand, breaks };
}

/** Where the plan in force has an instrument's change ahead. */
const planned = (db: Knex, today: LocalDate) =>
  db('plan_job')
    .whereRaw('plan_id = (select max(id) from plan)')
    .where({ aside: '' })
    .whereIn('kind', ['change', 'service'])
    .where('on_day', '>=', today)
    .groupBy('instrument_id')
    .select('instrument_id')
    .min({ on_day: 'on_day' })
    .as('planned');
/** When it is wanted: on the day of the plan in force, where that has one ahead; else when it is due. */
const wantedOn = (db: Knex) => db.raw('coalesce(planned.on_day, s.due_on)');
const asksBy = (db: Knex, today: LocalDate, until: LocalDate) =>
  db('instrument_state as s')
    .join('instrument_position as p', 'p.instrument_id', 's.instrument_id')
    .leftJoin(planned(db, today) as unknown as string, 'planned.instrument_id', 's.instrument_id')
    .where('s.due_on', '<=', until)
    .whereNotNull('p.house_product_id');
/**
 * A string asks for one when the change that is due is of it. Where strings broke, the work says which; its own state
 * does not know the shelf.
 */
const asking = (db: Knex, today: LocalDate, until: LocalDate) =>
  asksBy(db, today, until)
    .whereNot('s.due_by', 'broken')
    .whereRaw('(s.change_whole or p.number in (select value from json_each(s.to_change)))');

async function askedOfBroken(db: Knex, today: LocalDate, until: LocalDate) {
  const rows = await asksBy(db, today, until)
    .where('s.due_by', 'broken')
    .select('s.instrument_id', 's.tag', 'p.number', 'p.house_product_id', 'p.house_half')
    .select({ due_on: wantedOn(db) });
  const works = await dueWorkOf(db, [...new Set(rows.map((r) => r.instrument_id as number))], today);
  return rows.filter((r) => works.get(r.instrument_id)?.numbers.includes(r.number));
}

const askOf = (r: { due_on: string; tag: string; house_product_id: number; house_half: number }, today: LocalDate) => ({
  on: later(r.due_on, today),
  productId: String(r.house_product_id),
  halves: r.house_half ? 1 : 2,
  tag: r.tag,
});

/** Strings that the plan and due dates ask for, day by day; what is late is asked for today. */
async function dueDemand(db: Knex, today: LocalDate, until: LocalDate): Promise<Demand[]> {
  const rows: { due_on: string; product: number; half: number; n: number }[] = await asking(db, today, until)
    .groupByRaw('1, p.house_product_id, p.house_half')
    .select({ due_on: wantedOn(db), product: 'p.house_product_id', half: 'p.house_half' })
    .count({ n: '*' });
  return [
    ...rows.map((r) => ({
      on: later(r.due_on, today),
      productId: String(r.product),
      halves: Number(r.n) * (r.half ? 1 : 2),
      tag: '',
    })),
    ...(await askedOfBroken(db, today, until)).map((r) => ({ ...askOf(r, today), tag: '' })),
  ];
}

/** Who asks for the strings of packs, for saying who would wait; asked once for all of them. */
export async function demandOf(
  db: Knex,
  packs: readonly Pick<Pack, 'items'>[],
  today: LocalDate,
): Promise<(pack: Pick<Pack, 'items'>) => Demand[]> {
  const until = addDays(today, 7 * WEEKS_AHEAD - 1);
  const ids = new Set(packs.flatMap((p) => p.items.map((i) => Number(i.productId))));
  if (ids.size === 0) return () => [];
  const rows = await asking(db, today, until)
    .whereIn('p.house_product_id', among(db, [...ids]))
    .select('s.tag', 'p.house_product_id', 'p.house_half')
    .select({ due_on: wantedOn(db) });
  const broken = (await askedOfBroken(db, today, until)).filter((r) => ids.has(r.house_product_id));
  const byProduct = group(
    [...rows, ...broken].map((r) => askOf(r, today)),
    (d) => d.productId,
  );
  return (pack) => [...new Set(pack.items.map((i) => i.productId))].flatMap((id) => byProduct.get(id) ?? []);
}

/**
 * Breaks by chance a week for each string product, and packs opened in the last year. Breaks are strings that broke on
 * the way and strings reported broken; pooled over the programme while a product has little history.
 */
async function history(db: Knex, today: LocalDate): Promise<{ breaks: Breaks; opened: Map<number, number> }> {
  const from = Date.parse(`${addDays(today, -HISTORY_DAYS)}T00:00:00Z`);
  const year = Date.parse(`${addDays(today, -365)}T00:00:00Z`);
  const weeks = HISTORY_DAYS / 7;
  const lost: { product_id: number; n: number }[] = await db('string_entry as e')
    .join('standing_record as r', 'r.id', 'e.record_id')
    .where('e.broken', '>', 0)
    .where('e.at', '>=', from)
    .groupBy('e.product_id')
    .select('e.product_id')
    .sum({ n: 'e.broken' });
  const reports = await db('report')
    .where({ kind: 'broken' })
    .where('at', '>=', from)
    .select('instrument_id', 'numbers');
  const positions: { product: number; n: number }[] = await db('instrument_position')
    .whereNotNull('house_product_id')
    .groupBy('house_product_id')
    .select({ product: 'house_product_id' })
    .count({ n: '*' });
  const broke = new Map<number, number>();
  const add = (id: number, n: number) => broke.set(id, (broke.get(id) ?? 0) + n);
  for (const r of lost) add(r.product_id, Number(r.n));
  const reported = await db('instrument_position')
    .whereIn(
      'instrument_id',
      among(
        db,
        reports.map((r) => r.instrument_id),
      ),
    )
    .select('instrument_id', 'number', 'house_product_id');
  for (const r of reports)
    for (const number of columns.numbers.read(r.numbers)) {
      const at = reported.find((x) => x.instrument_id === r.instrument_id && x.number === number);
      if (at?.house_product_id) add(at.house_product_id, 1);
    }
  const total = [...broke.values()].reduce((a, b) => a + b, 0);
  const strings = positions.reduce((sum, r) => sum + Number(r.n), 0);
  const usual = breakRate({
    broke: total,
    stringWeeks: strings * weeks,
    usual: USUAL_BREAKS,
    weight: WATCHED_STRING_WEEKS,
  });
  const breaks = new Map(
    positions.map((r) => {
      const n = Number(r.n);
      const rate = breakRate({
        broke: broke.get(r.product) ?? 0,
        stringWeeks: n * weeks,
        usual,
        weight: WATCHED_STRING_WEEKS,
      });
      return [String(r.product), rate * n];
    }),
  );
  const opens: { product_id: number; n: number }[] = await db('stock_move as m')
    .join('lot as l', 'l.id', 'm.lot_id')
    .whereIn('m.kind', ['open-set', 'use'])
    .where('m.at', '>=', year)
    .whereNotExists(notTakenBack(db))
    .groupBy('l.product_id')
    .select('l.product_id')
    .sum({ n: 'm.quantity' });
  return { breaks, opened: new Map(opens.map((o) => [o.product_id, -Number(o.n)])) };
}

/** What runs short and nobody is known to sell. */
export interface Unsourced {
  productId: number;
  name: string;
  /** How many trade units should come; 0 where it only runs out later. */
  wanted: number;
  unit: number;
  runsOutOn: LocalDate | null;
}

/** What could be ordered now and from whom, with who waits for what is missing. */
export async function proposalInput(
  db: Knex,
  p: { today: LocalDate; service: number },
): Promise<{ lines: ProposalLine[]; suppliers: ProposalSupplier[]; unsourced: Unsourced[] }> {
  const { packs } = await stockAhead(db, p);
  const asks = await demandOf(
    db,
    packs.flatMap((x) => (x.supplier && x.outlook.runsOutOn ? [x.pack] : [])),
    p.today,
  );
  const lines: ProposalLine[] = [];
  for (const x of packs) {
    if (!x.supplier) continue;
    const until = addDays(p.today, 7 * WEEKS_AHEAD - 1);
    const late = x.outlook.runsOutOn ? lateWithout(x.pack, asks(x.pack), until) : [];
    // Who waits only beyond the lead time and a cycle can be served by a later order.
    const soon = addDays(p.today, x.leadDays + CYCLE_DAYS);
    const pressing = late.filter((l) => addDays(until, -l.days) <= soon);
    if (x.wanted === 0 && pressing.length === 0) continue;
    lines.push({
      productId: String(x.productId),
      supplierId: String(x.supplier.id),
      unit: x.unit,
      cents: x.cents,
      wanted: x.wanted,
      late: pressing,
      sendBy: x.rule.sendBy,
    });
  }
  const suppliers = (await loadSuppliers(db)).map((s) => ({
    supplierId: String(s.id),
    leastCents: s.leastOrderCents,
    orderCents: s.orderCostCents,
  }));
  const unsourced = packs.flatMap((x) =>
    x.supplier === null && (x.wanted > 0 || x.outlook.runsOutOn !== null)
      ? [{ productId: x.productId, name: x.name, wanted: x.wanted, unit: x.unit, runsOutOn: x.outlook.runsOutOn }]
      : [],
  );
  return { lines, suppliers, unsourced };
}
