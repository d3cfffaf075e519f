import type { Knex } from 'knex';
import type { Count } from '../../contract/stock';
import { valueOfPart } from '../../core/stock/value';
import { saidOr } from '../../core/stock/why';
import { localDate } from '../clock';
import { type Acting, change } from '../db/change';
import * as columns from '../db/columns';
import { untilChanged } from '../db/memo';
import { conflict, notFound, refused } from '../errors';
import { programmeRow } from '../programme/programme';
import { receiveLot, requireForm, writeMove } from './shelf';

export type CountLine = Count['lines'][number];

export const COUNT_REASONS = [
  'used but not recorded',
  'lost',
  'found',
  'miscounted before',
  'damaged',
  'moved elsewhere',
] as const;

/**
 * Counts a place: what differs becomes moves with a reason, the oldest lots losing first; all lines or none.
 * @throws UserError `conflict` when the book has moved on since the count began, with the lines it moved on
 */
export async function countPlace(db: Knex, acting: Acting, p: Count): Promise<{ differences: number }> {
  return change(db, acting, 'stock.count', p, async (trx) => {
    if (!(await trx('place').where({ id: p.placeId }).first())) throw notFound('This place');
    if (p.lines.length === 0) throw refused('nothing', 'Nothing was counted', 'Enter at least one number.');
    const differs = p.lines.filter((l) => l.counted !== l.expected);
    if (differs.length > 0 && p.reason.trim().length < 3)
      throw refused(
        'reason',
        'Why does it differ?',
        'The count differs from the stock record. Give the reason, if known.',
      );
    const stale: (CountLine & { onHand: number })[] = [];
    const lines = new Set(p.lines.map((l) => `${l.productId}/${l.form}`));
    if (lines.size !== p.lines.length)
      throw refused('twice', 'A line appears twice', 'Count each product once in each form.');
    for (const line of p.lines) {
      await requireForm(trx, line.productId, line.form);
      const { lots, onHand } = await lotsOf(trx, p.placeId, line);
      if (onHand !== line.expected) {
        stale.push({ ...line, onHand });
        continue;
      }
      await settle(trx, acting, p, line, lots);
      await trx('stock_count').insert({
        place_id: p.placeId,
        product_id: line.productId,
        form: line.form,
        expected: line.expected,
        counted: line.counted,
        reason: line.counted === line.expected ? '' : p.reason,
        person_id: acting.personId,
        at: acting.now,
      });
    }
    if (stale.length > 0)
      throw conflict('Someone moved stock while you were counting. Count those lines again; nothing was saved.', {
        lines: stale,
      });
    return { result: { differences: differs.length }, entity: 'place', entityId: p.placeId };
  });
}

async function lotsOf(trx: Knex, placeId: number, line: Pick<CountLine, 'productId' | 'form'>) {
  const lots = await trx('lot_balance as b')
    .join('lot as l', 'l.id', 'b.lot_id')
    .where({ 'b.place_id': placeId, 'l.product_id': line.productId, 'l.form': line.form })
    .orderBy([{ column: 'l.sealed' }, { column: 'l.received_on' }, { column: 'l.id' }])
    .select('b.lot_id', 'b.on_hand', 'b.value_cents');
  return { lots, onHand: lots.reduce((sum, l) => sum + l.on_hand, 0) };
}

async function settle(
  trx: Knex,
  acting: Acting,
  p: { placeId: number; reason: string },
  line: CountLine,
  lots: { lot_id: number; on_hand: number; value_cents: number }[],
): Promise<void> {
  const context = {
    personId: acting.personId,
    now: acting.now,
    recordId: null,
    reason: saidOr(p.reason),
    op: acting.key,
  };
  let missing = line.expected - line.counted;
  for (const lot of lots) {
    if (missing <= 0) break;
    const quantity = Math.min(missing, lot.on_hand);
    missing -= quantity;
    await writeMove(trx, { lotId: lot.lot_id, placeId: p.placeId, kind: 'count', quantity: -quantity }, context);
  }
  if (missing >= 0) return;
  const more = -missing;
  const newest = lots.at(-1);
  if (newest) {
    // What is found is worth what its neighbours are.
    const each = valueOfPart(newest.value_cents, newest.on_hand, 1);
    await writeMove(
      trx,
      { lotId: newest.lot_id, placeId: p.placeId, kind: 'count', quantity: more, brings: each * more },
      context,
    );
    return;
  }
  const programme = await programmeRow(trx);
  const product = await trx('product').where({ id: line.productId }).first();
  if (!product) throw notFound('This product');
  await receiveLot(
    trx,
    {
      productId: line.productId,
      form: line.form,
      sealed: line.form === 'set',
      receivedOn: localDate(acting.now, programme.time_zone),
      unitCostCents: 0,
      placeId: p.placeId,
      quantity: more,
      kind: 'count',
    },
    context,
  );
}

export interface ToCount {
  productId: number;
  name: string;
  form: 'set' | 'single' | 'half';
  onHand: number;
  valueCents: number;
  /** Moves since it was last counted. */
  moves: number;
  countedAt: number | null;
  by: string | null;
  lastDifference: number;
  /** The lots that lie there of it, for reading their labels. */
  lots: number[];
}

/** What lies at a place, what is worth counting first: value times how much has moved since it was last counted. */
export const toCount = (db: Knex, placeId: number): Promise<ToCount[]> =>
  untilChanged(db, `to-count/${placeId}`, '', () => countsOf(db, placeId));

async function countsOf(db: Knex, placeId: number): Promise<ToCount[]> {
  const balances: {
    product_id: number;
    form: ToCount['form'];
    name: string;
    lots: string;
    n: number;
    value: number;
  }[] = await db('lot_balance as b')
    .join('lot as l', 'l.id', 'b.lot_id')
    .join('product as p', 'p.id', 'l.product_id')
    .where('b.place_id', placeId)
    .groupBy('l.product_id', 'l.form', 'p.name')
    .select('l.product_id', 'l.form', 'p.name', db.raw('json_group_array(l.id) as lots'))
    .sum({ n: 'b.on_hand', value: 'b.value_cents' });
  const counts = await db('stock_count as c')
    .join('person as p', 'p.id', 'c.person_id')
    .where('c.place_id', placeId)
    .orderBy('c.id')
    .select('c.product_id', 'c.form', 'c.at', 'c.expected', 'c.counted', 'p.name');
  const last = new Map(counts.map((c) => [`${c.product_id}/${c.form}`, c]));
  // Moves of each lot since it was last counted, a year back at most.
  const latest = balances.length ? await db('stock_move').max({ at: 'at' }).first() : null;
  const yearAgo = Number(latest?.at ?? 0) - 365 * 86_400_000;
  const listed = new Set(balances.map((b) => `${b.product_id}/${b.form}`));
  const lots = (await db('lot').select('id', 'product_id', 'form')).filter((l) =>
    listed.has(`${l.product_id}/${l.form}`),
  );
  const sinceOf = (key: string) => Math.max(yearAgo, Number(last.get(key)?.at ?? 0));
  const asked = JSON.stringify(lots.map((l) => [l.id, sinceOf(`${l.product_id}/${l.form}`)]));
  const moved: { lot: number; n: number }[] = await db
    .with(
      'asked',
      db.raw("select json_extract(value, '$[0]') as lot, json_extract(value, '$[1]') as since from json_each(?)", [
        asked,
      ]),
    )
    .from('asked')
    .joinRaw('join stock_move m on m.place_id = ? and m.lot_id = asked.lot and m.at > asked.since', [placeId])
    .groupBy('asked.lot')
    .select('asked.lot')
    .count({ n: '*' });
  const keyOfLot = new Map(lots.map((l) => [l.id as number, `${l.product_id}/${l.form}`]));
  const movesOf = new Map<string, number>();
  for (const m of moved) {
    const key = keyOfLot.get(m.lot) as string;
    movesOf.set(key, (movesOf.get(key) ?? 0) + Number(m.n));
  }
  return balances
    .map((b): ToCount => {
      const key = `${b.product_id}/${b.form}`;
      const c = last.get(key);
      return {
        productId: b.product_id,
        name: b.name,
        form: b.form,
        onHand: Number(b.n),
        valueCents: Number(b.value),
        moves: movesOf.get(key) ?? 0,
        countedAt: c?.at ?? null,
        by: c?.name ?? null,
        lastDifference: c ? c.counted - c.expected : 0,
        lots: columns.numbers.read(b.lots),
      };
    })
    .sort((a, b) => b.valueCents * (1 + b.moves) - a.valueCents * (1 + a.moves));
}
