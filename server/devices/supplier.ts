import { seededChance } from '../../core/chance';
import { addDays, type LocalDate } from '../../core/dates';

/** What a supplier answers to an order. */
export interface SupplierAnswer {
  theirNumber: string;
  expectedOn: LocalDate;
  /** Packs it confirms, by product. */
  confirmed: Map<number, number>;
  /** What really comes, and when; nobody knows this before. */
  deliveries: { arrivesOn: LocalDate; lines: { productId: number; quantity: number }[] }[];
}

/** Share of orders of which something is sent later. */
const PARTLY = 0.25;
const BACK_ORDER_DAYS = 7;

/**
 * The stand-in for a supplier: takes any order, promises its lead time, is late for its share of deliveries, and now
 * and then sends a part of one line a week later. The same order always fares the same.
 */
export function standInSupplier(
  supplier: { id: number; leadDays: number; lateShare: number; lateDays: number },
  order: { id: number; lines: { productId: number; quantity: number }[] },
  sentOn: LocalDate,
): SupplierAnswer {
  const chance = seededChance(supplier.id * 100_003 + order.id);
  const expectedOn = addDays(sentOn, supplier.leadDays);
  const late = chance() < supplier.lateShare ? 1 + Math.floor(chance() * supplier.lateDays) : 0;
  const arrivesOn = addDays(expectedOn, late);
  const [first] = order.lines;
  const partly = chance() < PARTLY && first !== undefined && first.quantity > 1;
  const heldBack = partly && first ? Math.floor(first.quantity / 2) : 0;
  const lines = order.lines.map((l, i) => ({ ...l, quantity: i === 0 ? l.quantity - heldBack : l.quantity }));
  return {
    theirNumber: `C-${String(10_000 + supplier.id * 371 + order.id * 17)}`,
    expectedOn,
    confirmed: new Map(order.lines.map((l) => [l.productId, l.quantity])),
    deliveries: [
      { arrivesOn, lines: lines.filter((l) => l.quantity > 0) },
      ...(heldBack > 0 && first
        ? [
            {
              arrivesOn: addDays(arrivesOn, BACK_ORDER_DAYS),
              lines: [{ productId: first.productId, quantity: heldBack }],
            },
          ]
        : []),
    ],
  };
}
