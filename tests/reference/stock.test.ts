import { describe, expect, it } from 'vitest';
import {
  croston,
  economicOrderQuantity,
  newsvendor,
  poissonAt,
  poissonQuantile,
  reorderPoint,
} from '../../core/stock/quantities';

describe('order quantities', () => {
  it('economic order quantity: pencils of Nahmias, Production and Operations Analysis, ch. 4 (from memory)', () => {
    // 60 a week, 12.00 to order, 2 cents a pencil at 25 % a year: 3,870.
    const q = economicOrderQuantity({ demandPerYear: 60 * 52, orderCost: 12, holdingPerYear: 0.25 * 0.02 });
    expect(q).toBeCloseTo(3869.88, 1);
  });

  it('economic order quantity: speakers of Hillier & Lieberman, Introduction to Operations Research (from memory)', () => {
    // 8,000 a month, 12,000 to set up, 0.30 a month to hold: 25,298.
    expect(economicOrderQuantity({ demandPerYear: 8000, orderCost: 12_000, holdingPerYear: 0.3 })).toBeCloseTo(
      25298.2,
      0,
    );
  });

  it('newsvendor with Poisson demand 6, shortage 2, excess 1: order up to 7', () => {
    const { fractile, quantity } = newsvendor({ mean: 6, shortageCost: 2, excessCost: 1 });
    expect(fractile).toBeCloseTo(0.666667, 6);
    expect(quantity).toBe(7);
  });

  it('Poisson tables: mean 6 has P(D ≤ 7) = 0.7440 (standard statistical tables)', () => {
    const upTo = Array.from({ length: 8 }, (_, k) => poissonAt(k, 6)).reduce((a, b) => a + b, 0);
    expect(upTo).toBeCloseTo(0.744, 4);
    expect(poissonQuantile(0.95, 6)).toBe(10);
    expect(reorderPoint({ knownInLead: 4, randomInLead: 6, service: 0.95 })).toBe(14);
  });
});

it('Croston and its correction (Croston 1972; Syntetos & Boylan; R package forecast)', () => {
  const f = croston([0, 3, 0, 0, 2, 0, 4], 0.15);
  expect(f?.size).toBeCloseTo(3.0225, 4);
  expect(f?.interval).toBeCloseTo(2.1275, 4);
  expect(f?.perPeriod).toBeCloseTo(1.42068, 5);
  expect(f?.corrected).toBeCloseTo(1.31413, 4);
  expect(croston([0, 0], 0.15)).toBeNull();
});
