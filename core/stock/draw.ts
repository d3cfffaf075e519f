import type { LotForm, MoveKind } from './ledger';
import { shareValue, valueOfPart } from './value';

/** A lot on a shelf in reach. */
export interface ShelfLot {
  lotId: string;
  productId: string;
  form: LotForm;
  /** A sealed pack keeps; an opened one is used first. */
  sealed: boolean;
  /** ISO date; older goes first. */
  receivedOn: string;
  /** What may be taken of it. */
  onHand: number;
  /** What lies there beside and may not be taken, such as what others set aside. */
  heldBack?: number;
  /** What all of it that lies here cost, held back or not, in hundredths of the programme's currency. */
  valueCents: number;
  /** Set aside for the job that draws: it goes first. */
  mine?: boolean;
}

/** The strings in a set product, with how many of each. */
export type SetContents = ReadonlyMap<string, readonly { productId: string; count: number }[]>;

/** A string wanted for a position. A half serves where half of a double-length string reaches. */
export interface Need {
  number: number;
  productId: string;
  amount: 'whole' | 'half';
}

/** A planned move: on a lot that exists, or on one that the plan makes (its id starts with `new:`). */
export interface PlannedMove {
  lotId: string;
  productId: string;
  form: LotForm;
  kind: MoveKind;
  quantity: number;
  /** For a lot the plan makes: the lot it came out of. */
  fromLotId: string | null;
  /** The value that goes with it, negative on the way out. */
  valueCents: number;
}

export interface Drawn extends Need {
  lotId: string;
  /** Its move in the plan. */
  move: number;
  costCents: number;
}

export interface DrawPlan {
  drawn: Drawn[];
  moves: PlannedMove[];
  /** What opening and halving leave for the shelf. */
  leftovers: { lotId: string; productId: string; form: LotForm; quantity: number; valueCents: number }[];
  short: Need[];
}

/**
 * Which lots serve the needs: opened before sealed, older before newer, halves and singles before a set is opened, and
 * a whole string is halved only when no half is left. A set is opened only for needs nothing else serves.
 */
export function drawFor(needs: readonly Need[], shelf: readonly ShelfLot[], sets: SetContents): DrawPlan {
  const lots = shelf.map((lot) => ({ ...lot })).sort(useFirst);
  const left = new Map(lots.map((lot) => [lot.lotId, lot.onHand]));
  const worth = new Map(lots.map((lot) => [lot.lotId, lot.valueCents]));
  const moves: PlannedMove[] = [];
  const drawn: Drawn[] = [];
  const short: Need[] = [];
  const origin = new Map<string, string>();

  /** Moves so many; what goes out takes its share of the value along. Returns the value moved, without its sign. */
  const move = (lot: ShelfLot, kind: MoveKind, quantity: number, brings = 0): number => {
    const onHand = left.get(lot.lotId) ?? 0;
    const before = worth.get(lot.lotId) ?? 0;
    const valueCents = quantity < 0 ? -valueOfPart(before, onHand + (lot.heldBack ?? 0), -quantity) : brings;
    left.set(lot.lotId, onHand + quantity);
    worth.set(lot.lotId, before + valueCents);
    moves.push({
      lotId: lot.lotId,
      productId: lot.productId,
      form: lot.form,
      kind,
      quantity,
      fromLotId: origin.get(lot.lotId) ?? null,
      valueCents,
    });
    return Math.abs(valueCents);
  };
  const make = (from: ShelfLot, productId: string, form: LotForm): ShelfLot => {
    const lotId = `new:${form}:${productId}:${from.lotId}`;
    const existing = lots.find((lot) => lot.lotId === lotId);
    if (existing) return existing;
    const lot: ShelfLot = {
      lotId,
      productId,
      form,
      sealed: false,
      receivedOn: from.receivedOn,
      onHand: 0,
      valueCents: 0,
      ...(from.mine ? { mine: true } : {}),
    };
    origin.set(lotId, from.lotId);
    left.set(lotId, 0);
    lots.push(lot);
    lots.sort(useFirst);
    return lot;
  };
  const find = (productId: string, form: LotForm) =>
    lots.find((lot) => lot.productId === productId && lot.form === form && (left.get(lot.lotId) ?? 0) > 0);

  const take = (need: Need): boolean => {
    if (need.amount === 'half') {
      let half = find(need.productId, 'half');
      if (!half) {
        const whole = find(need.productId, 'single');
        if (!whole) return false;
        half = make(whole, need.productId, 'half');
        move(half, 'from-whole', 2, move(whole, 'halve', -1));
      }
      drawn.push({ ...need, lotId: half.lotId, costCents: move(half, 'use', -1), move: moves.length - 1 });
      return true;
    }
    const single = find(need.productId, 'single');
    if (!single) return false;
    drawn.push({ ...need, lotId: single.lotId, costCents: move(single, 'use', -1), move: moves.length - 1 });
    return true;
  };

  const waiting = needs.filter((need) => !take(need));
  for (const need of waiting) {
    if (take(need)) continue;
    const unserved = waiting.filter(
      (other) => !drawn.some((d) => d.number === other.number && d.productId === other.productId),
    );
    const serves = (lot: ShelfLot) =>
      (sets.get(lot.productId) ?? []).filter((item) => unserved.some((other) => other.productId === item.productId))
        .length;
    // The set that serves most of what is still waiting; lots are in the order they should be used.
    const set = lots
      .filter((lot) => lot.form === 'set' && (left.get(lot.lotId) ?? 0) > 0)
      .filter((lot) => (sets.get(lot.productId) ?? []).some((item) => item.productId === need.productId))
      .reduce<ShelfLot | null>((best, lot) => (best && serves(best) >= serves(lot) ? best : lot), null);
    if (!set) {
      short.push(need);
      continue;
    }
    const contents = sets.get(set.productId) ?? [];
    const shares = shareValue(
      move(set, 'open-set', -1),
      contents.map((item) => item.count),
    );
    contents.forEach((item, i) => {
      move(make(set, item.productId, 'single'), 'from-set', item.count, shares[i] as number);
    });
    take(need);
  }

  const made = lots.filter((lot) => origin.has(lot.lotId) && (left.get(lot.lotId) ?? 0) > 0);
  return {
    drawn: drawn.sort((a, b) => b.number - a.number),
    moves,
    leftovers: made.map((lot) => ({
      lotId: lot.lotId,
      productId: lot.productId,
      form: lot.form,
      quantity: left.get(lot.lotId) ?? 0,
      valueCents: worth.get(lot.lotId) ?? 0,
    })),
    short,
  };
}

/** What was set aside, opened before sealed, then the older, then by id so that the order is the same every time. */
function useFirst(a: ShelfLot, b: ShelfLot): number {
  if (Boolean(a.mine) !== Boolean(b.mine)) return a.mine ? -1 : 1;
  if (a.sealed !== b.sealed) return a.sealed ? 1 : -1;
  if (a.receivedOn !== b.receivedOn) return a.receivedOn < b.receivedOn ? -1 : 1;
  return a.lotId < b.lotId ? -1 : 1;
}
