import type { Knex } from 'knex';
import { addDays, daysBetween, type LocalDate, later } from '../../core/dates';
import { tagKey } from '../../core/instruments/tag';
import { explainOpening } from '../../core/stock/explain';
import { Opening, type OpeningNeed, type OpeningPlan, type OpeningProblem } from '../../core/stock/opening';
import { among } from '../db/among';
import { notFound, refused } from '../errors';
import { type Instrument, loadTagged } from '../fleet/instruments';
import { type DueWorkHere, dueWorkOf } from '../work/due';
import { comingLines } from './orders';
import { setContents } from './shelf';
import { approvedSubstitutes } from './substitutes';

/** What a substitute costs beside its price, for each step down the order of preference. Common practice, no source. */
const SUBSTITUTE_CENTS = 150;

export interface KitProblem {
  problem: OpeningProblem;
  names: Record<string, string>;
  places: Record<number, string>;
  /** Who a need is for. */
  tags: string[];
}

/**
 * The opening problem of a session: the house strings of these instruments at a place on a day, what lies in reach and
 * what arrives by then, allowed substitutes, and a spare of each string.
 */
export async function kitProblem(
  db: Knex,
  p: { tags: readonly string[]; placeId: number; on: LocalDate; today: LocalDate },
): Promise<KitProblem> {
  if (p.tags.length > 200) throw refused('too-many', 'Too many at once', 'Choose at most 200 instruments.');
  const instruments = await loadTagged(db, p.tags);
  const known = new Set(instruments.map((i) => tagKey(i.tag)));
  const unknown = p.tags.find((tag) => !known.has(tagKey(tag)));
  if (unknown !== undefined) throw notFound(unknown);
  const works = await dueWorkOf(
    db,
    instruments.map((i) => i.id),
    p.today,
  );
  const wanted = needsOf(instruments, works, p);
  const productIds = [...new Set(wanted.map((n) => Number(n.choices[0]?.productId)))];
  const approved = await approvedSubstitutes(db, productIds);
  const needs = wanted.map(
    (n): OpeningNeed => ({
      ...n,
      choices: [
        ...n.choices,
        ...(approved.get(Number(n.choices[0]?.productId)) ?? []).map((id, rank) => ({
          productId: String(id),
          penaltyCents: SUBSTITUTE_CENTS * (rank + 1),
        })),
      ],
    }),
  );
  const all = [...new Set(needs.flatMap((n) => n.choices.map((c) => Number(c.productId))))];
  const contents = await setContents(db, all);
  const packs = [...contents.keys()].map(Number);
  const rows = await db('lot_balance as b')
    .join('lot as l', 'l.id', 'b.lot_id')
    .join('place as s', 's.id', 'b.place_id')
    .whereIn('l.product_id', among(db, [...all, ...packs]))
    .where((q) => q.where('b.place_id', p.placeId).orWhere('s.is_store', true))
    .select('b.*', 'l.product_id', 'l.form', 'l.sealed', 'l.received_on', 's.is_store');
  const claims = await db('reserved as r')
    .join('job as j', 'j.id', 'r.job_id')
    .join('instrument as i', 'i.id', 'j.instrument_id')
    .whereNotIn(
      'i.tag',
      among(
        db,
        instruments.map((i) => i.tag),
      ),
    )
    .select('r.lot_id', 'r.place_id', 'r.quantity');
  const wantedIds = new Set([...all, ...packs]);
  const coming = (await comingLines(db)).filter((c) => wantedIds.has(c.productId));
  const products = await db('product').select('id', 'name', 'kind');
  const stores = new Set(await db('place').where({ is_store: true }).pluck('id'));
  const supplies = [
    ...rows.flatMap((r) => {
      const others = claims
        .filter((c) => c.lot_id === r.lot_id && c.place_id === r.place_id)
        .reduce((sum, c) => sum + c.quantity, 0);
      const count = r.on_hand - others;
      if (count <= 0) return [];
      return [
        {
          id: `${r.lot_id}@${r.place_id}`,
          productId: String(r.product_id),
          form: r.form,
          count,
          placeId: r.place_id as number,
          travels: Boolean(r.is_store),
          from: r.received_on as LocalDate,
          sealed: Boolean(r.sealed),
          ageDays: Math.max(0, daysBetween(r.received_on, p.today)),
          unitCents: r.value_cents / r.on_hand,
        },
      ];
    }),
    ...coming.map((c) => ({
      id: `order ${c.lineId}`,
      productId: String(c.productId),
      form: products.find((x) => x.id === c.productId)?.kind === 'set' ? ('set' as const) : ('single' as const),
      count: c.packs,
      placeId: c.placeId,
      travels: stores.has(c.placeId),
      // What has not been received is not here today, whatever was promised.
      from: later(c.expectedOn, addDays(p.today, 1)),
      sealed: true,
      ageDays: 0,
      unitCents: c.cents,
    })),
  ];
  const spares = [...new Set(needs.map((n) => n.choices[0]?.productId as string))].map((productId) => ({
    productId,
    placeId: p.placeId,
    on: p.on,
  }));
  return {
    problem: { needs, supplies, spares, contents, loss: await lossesOf(db, all) },
    names: Object.fromEntries(products.map((x) => [String(x.id), x.name])),
    places: Object.fromEntries((await db('place')).map((x) => [x.id, x.name])),
    tags: [...p.tags],
  };
}

/** House strings of the instruments, those wanted alike together. */
function needsOf(
  instruments: readonly Instrument[],
  works: ReadonlyMap<number, DueWorkHere>,
  p: { placeId: number; on: LocalDate },
): OpeningNeed[] {
  const needs = new Map<string, OpeningNeed>();
  for (const instrument of instruments)
    for (const x of instrument.positions) {
      if (x.houseProductId === null || !works.get(instrument.id)?.numbers.includes(x.number)) continue;
      const amount = x.houseHalf ? ('half' as const) : ('whole' as const);
      const id = `${x.houseProductId}/${amount}`;
      const known = needs.get(id);
      if (known) known.count += 1;
      else
        needs.set(id, {
          id,
          choices: [{ productId: String(x.houseProductId), penaltyCents: 0 }],
          amount,
          count: 1,
          placeId: p.placeId,
          on: p.on,
        });
    }
  return [...needs.values()];
}

/**
 * What share of its cost a string left over of an opened set is likely to lose: little where many instruments use it,
 * nearly all where none does.
 */
async function lossesOf(db: Knex, productIds: readonly number[]): Promise<Map<string, number>> {
  const inSets = await db('set_item').whereIn(
    'set_id',
    db('set_item').whereIn('product_id', among(db, productIds)).select('set_id'),
  );
  const ids = [...new Set([...productIds, ...inSets.map((i) => i.product_id as number)])];
  const uses: { product: number; n: number }[] = await db('instrument_position')
    .whereIn('house_product_id', among(db, ids))
    .groupBy('house_product_id')
    .select({ product: 'house_product_id' })
    .count({ n: '*' });
  const usesOf = new Map(uses.map((u) => [u.product, Number(u.n)]));
  return new Map(ids.map((id) => [String(id), 1 / (1 + (usesOf.get(id) ?? 0) / 4)]));
}

/** A kit with the quick plan and its explanation; the proven one is found in a worker. */
export function quickKit(kit: KitProblem): { plan: OpeningPlan; says: string[] } {
  const plan = new Opening(kit.problem).quick();
  return { plan, says: explainKit(kit, plan) };
}

const explainKit = (kit: KitProblem, plan: OpeningPlan): string[] =>
  explainOpening(
    kit.problem,
    plan,
    (id) => kit.names[id] ?? '',
    (id) => (kit.names[id] ?? '').split(', ').at(-1) ?? '',
  );
