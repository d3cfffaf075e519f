import type { Highs } from 'highs';
import type { LocalDate } from '../dates';
import { LinearProgram } from '../solver/linear';

/** A product that could be ordered. */
export interface ProposalLine {
  productId: string;
  supplierId: string;
  /** Packs in one trade unit. */
  unit: number;
  /** Cost of one pack. */
  cents: number;
  /** Packs the reorder rule asks for now; 0 where it does not ask yet. */
  wanted: number;
  /** For each pack that is missing to what is known, who waits and how long. */
  late: readonly { tag: string; days: number }[];
  sendBy: LocalDate | null;
}

export interface ProposalSupplier {
  supplierId: string;
  /** Below this it does not send. */
  leastCents: number;
  /** Cost of placing an order. */
  orderCents: number;
}

export interface Proposal {
  orders: {
    supplierId: string;
    lines: { productId: string; packs: number; cents: number }[];
    cents: number;
    /** The first day one of its products has to be sent for. */
    sendBy: LocalDate | null;
  }[];
  cents: number;
  /** Instruments that stay late because of what is not bought, and by how many days together. */
  late: { tag: string; days: number; productId: string }[];
  lateDays: number;
  /** What the reorder rules ask for and the budget does not give. */
  cut: { productId: string; packs: number }[];
}

// In days of one instrument late. A pack that a rule asks for although nobody waits yet is worth a little; a
// hundredth of the currency spent costs next to nothing, so that nothing is bought for its own sake.
const WANTED_PACK = 0.5;
const CENT = 1e-5;
/** Trade units beyond what is asked for that may fill an order up to a supplier's least. */
const FILL_UP = 3;

/**
 * What to order from whom: the packs that save most days of waiting within a budget, in whole trade units, from each
 * supplier at least what it sends for. An integer program; each trade unit of a product is one yes or no, the first
 * before the second.
 *
 * @param budgetCents null: as much as is asked for
 */
export function proposeOrders(
  highs: Highs,
  lines: readonly ProposalLine[],
  suppliers: readonly ProposalSupplier[],
  budgetCents: number | null,
): Proposal {
  const lp = new LinearProgram();
  const inf = Number.POSITIVE_INFINITY;
  const order = new Map(suppliers.map((s) => [s.supplierId, lp.column(CENT * s.orderCents, 0, 1, true)]));
  const spent = new Map(suppliers.map((s) => [s.supplierId, [] as [number, number][]]));
  const units = lines.map((line) => {
    const ordered = order.get(line.supplierId);
    if (ordered === undefined) return [];
    const packs = Math.max(line.wanted, line.late.length);
    const most = packs === 0 ? 0 : Math.ceil(packs / line.unit) + FILL_UP;
    const unitCents = line.unit * line.cents;
    let before: number | null = null;
    return Array.from({ length: most }, (_, k) => {
      const from = k * line.unit;
      const saves = line.late.slice(from, from + line.unit).reduce((sum, l) => sum + l.days, 0);
      const asked = Math.max(0, Math.min(line.unit, line.wanted - from));
      const column = lp.column(CENT * unitCents - saves - WANTED_PACK * asked, 0, 1, true);
      lp.row(-inf, 0, [
        [column, 1],
        [before ?? ordered, -1],
      ]);
      spent.get(line.supplierId)?.push([column, unitCents]);
      before = column;
      return column;
    });
  });
  for (const s of suppliers) {
    const terms = spent.get(s.supplierId) ?? [];
    const ordered = order.get(s.supplierId) as number;
    lp.row(0, inf, [...terms, [ordered, -s.leastCents]]);
  }
  if (budgetCents !== null) {
    const all = [...spent.values()].flat();
    const fees = suppliers.map((s): [number, number] => [order.get(s.supplierId) as number, s.orderCents]);
    lp.row(-inf, budgetCents, [...all, ...fees]);
  }
  const found = lp.columns > 0 ? lp.solve(highs, { seconds: 5, gap: 1e-4 }) : null;
  const bought = lines.map((line, i) => {
    const count = (units[i] ?? []).filter((c) => (found?.x[c] ?? 0) > 0.5).length;
    return { line, packs: count * line.unit };
  });
  const orders = suppliers.flatMap((s) => {
    const own = bought.filter((b) => b.line.supplierId === s.supplierId && b.packs > 0);
    if (own.length === 0) return [];
    const days = own.flatMap((b) => b.line.sendBy ?? []).sort();
    return [
      {
        supplierId: s.supplierId,
        lines: own.map((b) => ({ productId: b.line.productId, packs: b.packs, cents: b.packs * b.line.cents })),
        cents: own.reduce((sum, b) => sum + b.packs * b.line.cents, 0),
        sendBy: days[0] ?? null,
      },
    ];
  });
  const late = bought.flatMap((b) => b.line.late.slice(b.packs).map((l) => ({ ...l, productId: b.line.productId })));
  return {
    orders,
    cents: orders.reduce((sum, o) => sum + o.cents, 0),
    late,
    lateDays: late.reduce((sum, l) => sum + l.days, 0),
    cut: bought
      .filter((b) => b.packs < b.line.wanted)
      .map((b) => ({ productId: b.line.productId, packs: b.line.wanted - b.packs })),
  };
}
