import fc from 'fast-check';
import loadHighs, { type Highs } from 'highs';
import { beforeAll, describe, expect, it } from 'vitest';
import { type Demand, lateWithout, outlook, type Pack, packsNeeded, reorderRule } from './ahead';
import { proposeOrders } from './proposal';
import { poissonAt, poissonQuantile } from './quantities';

const TODAY = '2026-03-02';
const pack = (packs: number, more: Partial<Pack> = {}): Pack => ({
  productId: 'set',
  items: ['e', 'b'].map((productId) => ({ productId, count: 1 })),
  packs,
  looseHalves: new Map(),
  arrivals: [],
  ...more,
});
const job = (on: string, tag: string, halves = 2): Demand[] =>
  ['e', 'b'].map((productId) => ({ on, productId, halves, tag }));

/** The same seeded stream every time (Park & Miller 1988). */
function seeded(seed: number): () => number {
  let state = seed;
  return () => {
    state = (state * 48271) % 2147483647;
    return state / 2147483647;
  };
}

describe('what is wanted ahead', () => {
  it('opens as many packs as opening one after the other would', () => {
    fc.assert(
      fc.property(
        fc.array(fc.record({ e: fc.nat(4), b: fc.nat(4) }), { minLength: 1, maxLength: 8 }),
        fc.nat(6),
        fc.nat(6),
        (weeks, e, b) => {
          const needs = weeks.map((w) => new Map(Object.entries(w)));
          const got = packsNeeded(pack(0, { looseHalves: new Map(Object.entries({ e, b })) }), needs);
          const loose = { e, b };
          let opened = 0;
          const slow = weeks.map((w) => {
            for (const k of ['e', 'b'] as const) {
              loose[k] -= w[k];
              while (loose[k] < 0) {
                opened += 1;
                loose.e += 2;
                loose.b += 2;
              }
            }
            return opened;
          });
          expect(got).toEqual(slow);
        },
      ),
    );
  });

  it('says the day it runs out, the chance of it, and when to order', () => {
    const demand = [...job('2026-03-10', 'A'), ...job('2026-03-24', 'B'), ...job('2026-04-07', 'C')];
    const look = outlook(pack(1), demand, new Map(), {
      today: TODAY,
      weeks: 8,
      leadDays: 14,
      draws: 50,
      random: seeded(7),
    });
    expect(look.runsOutOn).toBe('2026-03-24');
    expect(look.weeks.map((w) => w.left)).toEqual([1, 0, 0, -1, -1, -2, -2, -2]);
    expect(look.weeks[3]?.shortChance).toBe(1);
    expect(look.shortInLead).toBe(0);
    // The fourth week is the first that is short: three weeks of lead time end before it, four include it.
    const shortWithin = (leadDays: number) =>
      outlook(pack(1), demand, new Map(), { today: TODAY, weeks: 8, leadDays, draws: 50, random: seeded(7) })
        .shortInLead;
    expect([0, 14, 20, 21, 28, 56, 90].map(shortWithin)).toEqual([0, 0, 0, 0, 1, 1, 1]);
    const rule = reorderRule(pack(1), demand, new Map(), {
      today: TODAY,
      leadDays: 14,
      service: 0.95,
      economic: 1.2,
      cycleDays: 28,
      unit: 2,
    });
    expect(rule).toMatchObject({ knownInLead: 1, point: 1, quantity: 2, sendBy: '2026-03-10' });
    // Two days of half strings are one pack.
    expect(packsNeeded(pack(0), [new Map([['e', 1]]), new Map([['e', 1]])])).toEqual([1, 1]);
  });

  it('a simulation of strings that break agrees with Poisson, week by week', () => {
    const look = outlook(pack(3, { items: [{ productId: 'e', count: 1 }] }), [], new Map([['e', 0.5]]), {
      today: TODAY,
      weeks: 6,
      leadDays: 42,
      draws: 20_000,
      random: seeded(11),
    });
    // After six weeks three are broken on average; short when more than three are.
    const upTo = [0, 1, 2, 3].reduce((sum, k) => sum + poissonAt(k, 3), 0);
    expect(look.shortInLead).toBeCloseTo(1 - upTo, 2);
    const stock = poissonQuantile(0.95, 3);
    const safe = outlook(pack(stock, { items: [{ productId: 'e', count: 1 }] }), [], new Map([['e', 0.5]]), {
      today: TODAY,
      weeks: 6,
      leadDays: 42,
      draws: 20_000,
      random: seeded(12),
    });
    expect(safe.shortInLead).toBeLessThan(0.055);
  });
});

describe('what to order', () => {
  let highs: Highs;
  beforeAll(async () => {
    highs = await loadHighs();
  });
  const late = (...days: number[]) => days.map((d, i) => ({ tag: `T${i}`, days: d }));
  const line = (productId: string, supplierId: string, cents: number, wanted: number, waits: number[], unit = 1) => ({
    productId,
    supplierId,
    unit,
    cents,
    wanted,
    late: late(...waits),
    sendBy: null,
  });

  it('spends a budget where it saves most waiting, as trying everything does', () => {
    fc.assert(
      fc.property(
        fc.array(
          fc.tuple(fc.integer({ min: 1, max: 9 }), fc.array(fc.integer({ min: 1, max: 30 }), { maxLength: 3 })),
          {
            minLength: 1,
            maxLength: 4,
          },
        ),
        fc.integer({ min: 0, max: 30 }),
        (specs, budget) => {
          const lines = specs.map(([cents, waits], i) =>
            line(
              `p${i}`,
              's',
              cents * 100,
              waits.length,
              [...waits].sort((a, b) => b - a),
            ),
          );
          const got = proposeOrders(highs, lines, [{ supplierId: 's', leastCents: 0, orderCents: 0 }], budget * 100);
          expect(got.cents).toBeLessThanOrEqual(budget * 100);
          let best = Number.POSITIVE_INFINITY;
          const all = (i: number, spent: number, days: number): void => {
            const l = lines[i];
            if (!l) {
              best = Math.min(best, days);
              return;
            }
            for (let n = 0; n <= l.late.length; n++) {
              if (spent + n * l.cents > budget * 100) break;
              all(i + 1, spent + n * l.cents, days + l.late.slice(n).reduce((sum, x) => sum + x.days, 0));
            }
          };
          all(0, 0, 0);
          // A pack somebody asks for counts half a day beside the waiting it saves.
          expect(got.lateDays).toBeLessThanOrEqual(best + 2);
        },
      ),
      { numRuns: 40 },
    );
  });

  it('fills an order up to the least a supplier sends for, in whole trade units, and says what a cut costs', () => {
    const lines = [line('a', 's', 300, 2, [20, 6], 2), line('b', 's', 100, 1, [])];
    const suppliers = [{ supplierId: 's', leastCents: 1000, orderCents: 0 }];
    const all = proposeOrders(highs, lines, suppliers, null);
    expect(all.orders[0]?.cents).toBeGreaterThanOrEqual(1000);
    expect(all.orders[0]?.lines.find((l) => l.productId === 'a')?.packs).toBeGreaterThanOrEqual(2);
    expect(all.late).toEqual([]);
    const none = proposeOrders(highs, lines, suppliers, 900);
    expect(none.orders).toEqual([]);
    expect(none.lateDays).toBe(26);
    expect(none.cut).toEqual([
      { productId: 'a', packs: 2 },
      { productId: 'b', packs: 1 },
    ]);
  });

  it('names who waits when nothing is ordered', () => {
    const demand = [...job('2026-03-10', 'A'), ...job('2026-03-24', 'B'), ...job('2026-04-07', 'C')];
    expect(lateWithout(pack(1), demand, '2026-04-10')).toEqual([
      { tag: 'B', days: 17 },
      { tag: 'C', days: 3 },
    ]);
  });
});
