import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { drawFor, type Need, type SetContents, type ShelfLot } from './draw';
import { applyMoves, NegativeStockError } from './ledger';

const sets: SetContents = new Map([
  [
    'light',
    [
      { productId: 'e', count: 1 },
      { productId: 'b', count: 1 },
      { productId: 'g', count: 2 },
    ],
  ],
  ['other', [{ productId: 'b', count: 1 }]],
]);
const lot = (
  lotId: string,
  productId: string,
  form: ShelfLot['form'],
  onHand: number,
  more: Partial<ShelfLot> = {},
): ShelfLot => ({
  lotId,
  productId,
  form,
  onHand,
  sealed: form === 'set',
  receivedOn: '2026-01-01',
  heldBack: onHand % 2,
  valueCents: onHand * 100 + 7,
  ...more,
});
const need = (number: number, productId: string, amount: Need['amount'] = 'whole'): Need => ({
  number,
  productId,
  amount,
});

/** Strings in a number of sets, singles or halves, counted in half strings. */
const halvesIn = (productId: string, form: ShelfLot['form'], quantity: number): number =>
  quantity *
  (form === 'half' ? 1 : form === 'single' ? 2 : 2 * (sets.get(productId) ?? []).reduce((sum, i) => sum + i.count, 0));

describe('drawing from the shelf', () => {
  it('conserves strings and never goes below nothing, on any shelf', () => {
    const lots = fc.array(
      fc.record({
        productId: fc.constantFrom('e', 'b', 'g'),
        form: fc.constantFrom('single', 'half', 'set'),
        onHand: fc.integer({ min: 0, max: 3 }),
        sealed: fc.boolean(),
        day: fc.integer({ min: 1, max: 9 }),
      }),
      { maxLength: 8 },
    );
    const needs = fc.array(fc.tuple(fc.constantFrom('e', 'b', 'g'), fc.constantFrom('whole', 'half')), {
      maxLength: 8,
    });
    fc.assert(
      fc.property(lots, needs, (shelfSpec, wanted) => {
        const shelf = shelfSpec.map((l, i) =>
          lot(
            `l${i}`,
            l.form === 'set' ? (l.onHand % 2 ? 'light' : 'other') : l.productId,
            l.form as ShelfLot['form'],
            l.onHand,
            { sealed: l.sealed, receivedOn: `2026-01-0${l.day}` },
          ),
        );
        const asked = wanted.map(([productId, amount], i) => need(i + 1, productId, amount as Need['amount']));
        const plan = drawFor(asked, shelf, sets);
        expect(plan.drawn.length + plan.short.length).toBe(asked.length);
        // The ledger accepts the moves one by one: nothing is ever negative.
        const after = applyMoves(new Map(shelf.map((l) => [l.lotId, l.onHand])), plan.moves);
        const form = new Map<string, Pick<ShelfLot, 'productId' | 'form'>>([
          ...shelf.map((l) => [l.lotId, l] as const),
          ...plan.moves.map((m) => [m.lotId, m] as const),
        ]);
        const total = (balances: ReadonlyMap<string, number>) =>
          [...balances].reduce(
            (sum, [id, n]) => sum + halvesIn(form.get(id)?.productId ?? '', form.get(id)?.form ?? 'single', n),
            0,
          );
        const used = plan.drawn.reduce((sum, d) => sum + (d.amount === 'half' ? 1 : 2), 0);
        expect(total(new Map(shelf.map((l) => [l.lotId, l.onHand]))) - total(after)).toBe(used);
        // Money goes where the strings go, to the hundredth.
        const moved = plan.moves.reduce((sum, m) => sum + m.valueCents, 0);
        expect(0 - moved).toBe(plan.drawn.reduce((sum, d) => sum + d.costCents, 0));
        // What is called short really is nowhere on the shelf any more.
        for (const s of plan.short) {
          for (const [id, n] of after) {
            const l = form.get(id);
            if (n > 0 && l?.productId === s.productId && l.form === 'single')
              expect.fail(`${s.productId} lies in ${id}`);
          }
        }
      }),
    );
  });

  it('uses opened before sealed and older before newer', () => {
    const shelf = [
      lot('sealed', 'e', 'single', 1, { sealed: true, receivedOn: '2025-01-01' }),
      lot('new', 'e', 'single', 1, { receivedOn: '2026-03-01' }),
      lot('old', 'e', 'single', 1, { receivedOn: '2026-02-01' }),
    ];
    expect(drawFor([need(1, 'e'), need(2, 'e'), need(3, 'e')], shelf, sets).moves.map((m) => m.lotId)).toEqual([
      'old',
      'new',
      'sealed',
    ]);
  });

  it('takes a half before it halves a whole, and puts the other half on the shelf', () => {
    const shelf = [lot('h', 'g', 'half', 1), lot('w', 'g', 'single', 2)];
    const plan = drawFor([need(1, 'g', 'half'), need(2, 'g', 'half')], shelf, sets);
    expect(plan.moves.map((m) => [m.kind, m.quantity])).toEqual([
      ['use', -1],
      ['halve', -1],
      ['from-whole', 2],
      ['use', -1],
    ]);
    expect(plan.leftovers).toMatchObject([{ form: 'half', quantity: 1 }]);
  });

  it('opens the set that serves most of what waits, and leaves its rest as singles', () => {
    const plan = drawFor(
      [need(1, 'e'), need(2, 'b')],
      [lot('a', 'other', 'set', 1, { receivedOn: '2020-01-01' }), lot('s', 'light', 'set', 1)],
      sets,
    );
    expect(plan.moves.filter((m) => m.kind === 'open-set').map((m) => m.lotId)).toEqual(['s']);
    expect(plan.leftovers).toMatchObject([{ productId: 'g', quantity: 2 }]);
  });
});

it('the ledger refuses a move below nothing, with what is there', () => {
  const moves = [{ lotId: 'a', kind: 'use' as const, quantity: -2 }];
  expect(() => applyMoves(new Map([['a', 1]]), moves)).toThrow(NegativeStockError);
});
