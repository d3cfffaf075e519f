import type { Knex } from 'knex';
import type { FinishEntry } from '../../contract/bench';
import { loadProducts, type StringProduct } from '../fleet/instruments';
import { setContents, shelfInReach } from '../stock/shelf';
import { approvedSubstitutes, nearStrings } from '../stock/substitutes';

import { prepare } from './preparing';

export interface FinishPreview {
  drawn: { number: number; productId: number; half: boolean; from: string; costCents: number }[];
  leftovers: { key: string; name: string; form: string; quantity: number; worthCents: number }[];
  opens: { name: string; quantity: number; what: 'opens' | 'halves' }[];
  short: {
    number: number;
    productId: number;
    name: string;
    half: boolean;
    substitutes: { productId: number; name: string; onHand: number; tensionChange: number }[];
  }[];
  costCents: number;
  /** Strings used, those that broke on the way among them. */
  used: number;
}

/** What a finish would take, open and leave over, and where stock does not cover it with the choices there are. */
export async function previewFinish(
  db: Knex,
  personId: number,
  job: { id: number; instrument_id: number },
  entries: readonly FinishEntry[],
): Promise<FinishPreview> {
  const p = await prepare(db, personId, job, entries);
  const names = new Map((await db('product').select('id', 'name')).map((row) => [String(row.id), row.name as string]));
  const nameOf = (id: string) => names.get(id) ?? '';
  const places = new Map((await db('place')).map((row) => [row.id, row.name as string]));
  const placeOf = new Map(p.shelf.map((lot) => [lot.lotId, places.get(lot.placeId) ?? '']));
  const origin = new Map(p.plan.moves.map((m) => [m.lotId, m.fromLotId]));
  const from = (lotId: string): string => {
    const source = origin.get(lotId);
    return placeOf.get(lotId) ?? (source ? from(source) : '');
  };
  return {
    drawn: p.plan.drawn.map((d) => ({
      number: d.number,
      productId: Number(d.productId),
      half: d.amount === 'half',
      from: from(d.lotId),
      costCents: d.costCents,
    })),
    leftovers: p.plan.leftovers.map((l) => ({
      key: `${l.productId}:${l.form}`,
      name: nameOf(l.productId),
      form: l.form,
      quantity: l.quantity,
      worthCents: l.valueCents,
    })),
    opens: p.plan.moves
      .filter((m) => m.kind === 'open-set' || m.kind === 'halve')
      .map((m) => ({
        name: nameOf(m.productId),
        quantity: -m.quantity,
        what: m.kind === 'halve' ? ('halves' as const) : ('opens' as const),
      })),
    short: await Promise.all(
      p.plan.short
        .filter((s) => !p.needs.some((n) => n.found && n.number === s.number))
        .map(async (s) => ({
          number: s.number,
          productId: Number(s.productId),
          name: nameOf(s.productId),
          half: s.amount === 'half',
          substitutes: await substitutesFor(db, p.placeId, p.products.get(Number(s.productId)) as StringProduct),
        })),
    ),
    costCents: [...p.plan.drawn, ...p.lost].reduce((sum, d) => sum + d.costCents, 0),
    used: p.plan.drawn.length + p.lost.length,
  };
}

/** Strings on a shelf in reach that could stand in, with the change in pull: those approved first, then what is near. */
async function substitutesFor(db: Knex, placeId: number, wanted: StringProduct) {
  const approved = (await approvedSubstitutes(db, [wanted.id])).get(wanted.id) ?? [];
  const known = await loadProducts(db, approved);
  const candidates = [
    ...approved.flatMap((id) => known.get(id) ?? []),
    ...(await nearStrings(db, wanted)).filter((c) => !approved.includes(c.id)),
  ];
  const ids = candidates.map((c) => c.id);
  const shelf = await shelfInReach(db, placeId, { productIds: ids });
  const contents = await setContents(db, ids);
  return candidates
    .map((c) => {
      const onHand = shelf.reduce((sum, lot) => {
        if (lot.form === 'set')
          return (
            sum + lot.onHand * (contents.get(lot.productId)?.find((i) => i.productId === String(c.id))?.count ?? 0)
          );
        return lot.productId === String(c.id) ? sum + lot.onHand * (lot.form === 'half' ? 0.5 : 1) : sum;
      }, 0);
      return {
        productId: c.id,
        name: c.name,
        onHand,
        tensionChange: c.massKgPerM / wanted.massKgPerM - 1,
        approved: approved.includes(c.id),
        gap: Math.abs(c.massKgPerM / wanted.massKgPerM - 1),
      };
    })
    .filter((c) => c.onHand >= 1)
    .sort((a, b) => Number(b.approved) - Number(a.approved) || (a.approved ? 0 : a.gap - b.gap))
    .slice(0, 3)
    .map(({ gap: _, approved: __, ...choice }) => choice);
}
