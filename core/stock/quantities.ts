/**
 * How much to order and when: the economic order quantity (Harris 1913), the reorder point for a chance of covering the
 * lead time, the newsvendor's quantity, and forecasts of demand that comes now and then (Croston 1972, with the
 * correction of Syntetos & Boylan 2005).
 */

/**
 * Units per order at which the yearly cost of ordering and of holding is least: √(2 D K / h).
 * @param p.demandPerYear units
 * @param p.orderCost cost of placing one order
 * @param p.holdingPerYear cost of keeping one unit for a year
 * @throws RangeError for a cost of holding that is not above zero
 */
export function economicOrderQuantity(p: { demandPerYear: number; orderCost: number; holdingPerYear: number }): number {
  if (!(p.holdingPerYear > 0)) throw new RangeError('Keeping a unit for a year must cost something.');
  return Math.sqrt((2 * Math.max(0, p.demandPerYear) * Math.max(0, p.orderCost)) / p.holdingPerYear);
}

/** Probability of exactly k events where `mean` are expected. */
export function poissonAt(k: number, mean: number): number {
  if (k < 0) return 0;
  if (mean === 0) return k === 0 ? 1 : 0;
  let log = -mean + k * Math.log(mean);
  for (let i = 2; i <= k; i++) log -= Math.log(i);
  return Math.exp(log);
}

/** The smallest k with P(D ≤ k) at least `chance`, for Poisson demand. @throws RangeError unless 0 < chance < 1 */
export function poissonQuantile(chance: number, mean: number): number {
  if (!(chance > 0 && chance < 1)) throw new RangeError('A chance lies between 0 and 1.');
  let sum = 0;
  for (let k = 0; ; k++) {
    sum += poissonAt(k, mean);
    // The tail is beyond what floating point can tell.
    if (sum >= chance - 1e-12 || k > mean + 60 + 20 * Math.sqrt(mean)) return k;
  }
}

/**
 * Units of stock and orders at which to order again, so that what is used until the order has come is covered with a
 * chance of `service`: what is known plus the Poisson quantile of what is not.
 */
export function reorderPoint(p: { knownInLead: number; randomInLead: number; service: number }): number {
  return p.knownInLead + poissonQuantile(p.service, p.randomInLead);
}

/**
 * Newsvendor: the stock for one season of Poisson demand at which a unit more would cost more than it saves. The
 * critical fractile is shortage / (shortage + excess).
 */
export function newsvendor(p: { mean: number; shortageCost: number; excessCost: number }): {
  fractile: number;
  quantity: number;
} {
  const fractile = p.shortageCost / (p.shortageCost + p.excessCost);
  return { fractile, quantity: poissonQuantile(fractile, p.mean) };
}

export interface Intermittent {
  /** Units when there is any demand. */
  size: number;
  /** Periods from one demand to the next. */
  interval: number;
  /** Units per period, Croston. */
  perPeriod: number;
  /** Units per period with the bias taken out. */
  corrected: number;
}

/**
 * Croston's forecast: size and interval of demand smoothed apart, at each period with demand.
 * @param demand units by period, the oldest first
 * @param smoothing between 0 and 1
 * @returns null where there was no demand at all
 */
export function croston(demand: readonly number[], smoothing: number): Intermittent | null {
  let size = 0;
  let interval = 0;
  let since = 0;
  let seen = false;
  for (const units of demand) {
    since += 1;
    if (units <= 0) continue;
    if (seen) {
      size += smoothing * (units - size);
      interval += smoothing * (since - interval);
    } else {
      size = units;
      interval = since;
      seen = true;
    }
    since = 0;
  }
  if (!seen) return null;
  const perPeriod = size / interval;
  return { size, interval, perPeriod, corrected: perPeriod * (1 - smoothing / 2) };
}

/**
 * Breaks per string and week: what was seen, drawn towards what is usual while little was seen (gamma prior: `usual` per
 * week, worth `weight` string-weeks of watching).
 */
export function breakRate(p: { broke: number; stringWeeks: number; usual: number; weight: number }): number {
  return (p.broke + p.usual * p.weight) / (p.stringWeeks + p.weight);
}
