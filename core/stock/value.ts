/**
 * What a part of a lot is worth, in hundredths of the currency: its share of the lot's value, rounded, and all that is
 * left when the last goes. So money is conserved to the hundredth however a lot is used up.
 */
export function valueOfPart(valueCents: number, onHand: number, quantity: number): number {
  if (quantity <= 0 || onHand <= 0) return 0;
  return quantity >= onHand ? valueCents : Math.round((valueCents * quantity) / onHand);
}

/** A value cut into shares by weight that add up to it exactly; what rounding leaves goes to the largest remainders. */
export function shareValue(valueCents: number, weights: readonly number[]): number[] {
  const total = weights.reduce((sum, w) => sum + w, 0);
  if (total <= 0) return weights.map(() => 0);
  const exact = weights.map((w) => (valueCents * w) / total);
  const shares = exact.map(Math.floor);
  let left = valueCents - shares.reduce((sum, s) => sum + s, 0);
  const byRemainder = exact
    .map((x, i) => ({ i, rest: x - Math.floor(x) }))
    .sort((a, b) => b.rest - a.rest || a.i - b.i);
  for (const { i } of byRemainder) {
    if (left <= 0) break;
    shares[i] = (shares[i] as number) + 1;
    left -= 1;
  }
  return shares;
}
