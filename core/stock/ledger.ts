/**
 * Stock is a ledger of moves. A lot holds one product in one form; what is on hand is the sum of its moves and is never
 * below zero.
 */
export const LOT_FORMS = ['set', 'single', 'half'] as const;
export type LotForm = (typeof LOT_FORMS)[number];

export const MOVE_KINDS = [
  'receive',
  'use',
  'open-set',
  'from-set',
  'halve',
  'from-whole',
  'return',
  'scrap',
  'count',
  'transfer',
] as const;
export type MoveKind = (typeof MOVE_KINDS)[number];

/** A change of one lot by so many sets, strings or halves, as its form says. */
export interface Move {
  lotId: string;
  kind: MoveKind;
  quantity: number;
}

/** A move that would leave a lot with less than nothing. */
export class NegativeStockError extends Error {
  constructor(
    readonly lotId: string,
    readonly onHand: number,
    readonly quantity: number,
  ) {
    super(`This lot has only ${onHand} left, and ${-quantity} are needed. Count the shelf, or choose another lot.`);
    this.name = 'NegativeStockError';
  }
}

/**
 * On-hand per lot after the moves, in order.
 * @throws NegativeStockError at the first move that goes below zero
 */
export function applyMoves(onHand: ReadonlyMap<string, number>, moves: readonly Move[]): Map<string, number> {
  const result = new Map(onHand);
  for (const move of moves) {
    const before = result.get(move.lotId) ?? 0;
    if (before + move.quantity < 0) throw new NegativeStockError(move.lotId, before, move.quantity);
    result.set(move.lotId, before + move.quantity);
  }
  return result;
}
