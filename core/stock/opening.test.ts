import fc from 'fast-check';
import loadHighs, { type Highs } from 'highs';
import { beforeAll, describe, expect, it } from 'vitest';
import type { SetContents } from './draw';
import { gapOf, Opening, type OpeningNeed, type OpeningProblem, type OpeningSupply } from './opening';

let highs: Highs;
beforeAll(async () => {
  highs = await loadHighs();
});

const contents: SetContents = new Map([
  ['light', ['e', 'b', 'g'].map((productId) => ({ productId, count: 1 }))],
  ['heavy', ['h', 'b'].map((productId) => ({ productId, count: 1 }))],
]);
const supply = (
  id: string,
  productId: string,
  form: OpeningSupply['form'],
  count: number,
  more = {},
): OpeningSupply => ({
  id,
  productId,
  form,
  count,
  placeId: 1,
  travels: true,
  from: '2026-01-01',
  sealed: form === 'set',
  ageDays: 0,
  unitCents: form === 'set' ? 900 : form === 'half' ? 150 : 300,
  ...more,
});
const need = (id: string, productIds: string[], count: number, amount: 'whole' | 'half' = 'whole'): OpeningNeed => ({
  id,
  choices: productIds.map((productId, i) => ({ productId, penaltyCents: 100 * i })),
  amount,
  count,
  placeId: 1,
  on: '2026-03-01',
});

/** The least cost by trying everything, one string after the other; costs as the docstrings say them. */
function bruteForce(p: OpeningProblem): number {
  const each = (s: OpeningSupply) =>
    s.form === 'set'
      ? s.unitCents / (contents.get(s.productId)?.length ?? 1)
      : s.form === 'half'
        ? s.unitCents * 2
        : s.unitCents;
  const units = p.needs.flatMap((n) => Array.from({ length: n.count }, () => n));
  let best = Number.POSITIVE_INFINITY;
  interface State {
    left: Map<string, number>;
    loose: Map<string, number>;
    cut: Map<string, number>;
    cost: number;
  }
  const leftoverCost = (s: State): number => {
    let cost = 0;
    for (const [k, n] of s.loose)
      cost += n * each(p.supplies.find((x) => k.startsWith(`${x.id}/`)) as OpeningSupply) * 0.5;
    for (const [k, n] of s.cut) {
      const from = p.supplies.find((x) => k.startsWith(`${x.id}/`)) as OpeningSupply;
      cost += (n * each(from) * (from.form === 'set' ? 0.5 : 0.25)) / 2;
    }
    return cost;
  };
  const go = (i: number, s: State): void => {
    if (s.cost >= best) return;
    const n = units[i];
    if (!n) {
      best = Math.min(best, s.cost + leftoverCost(s));
      return;
    }
    const next = (change: (t: State) => void) => {
      const t = { left: new Map(s.left), loose: new Map(s.loose), cut: new Map(s.cut), cost: s.cost };
      change(t);
      go(i + 1, t);
    };
    const minus = (m: Map<string, number>, k: string) => m.set(k, (m.get(k) ?? 0) - 1);
    next((t) => {
      t.cost += 50_000;
    });
    for (const { productId, penaltyCents } of n.choices)
      for (const x of p.supplies) {
        const k = `${x.id}/${productId}`;
        const use = (t: State) => {
          const age = 0.01 * x.ageDays;
          const sealed = x.form === 'single' && x.sealed ? 20 : 0;
          t.cost += (n.amount === 'half' ? each(x) / 2 : each(x)) + penaltyCents + sealed - age;
        };
        const withWhole = (then: (t: State) => void) => {
          if (x.form === 'single' && x.productId === productId && (s.left.get(x.id) ?? 0) > 0)
            next((t) => {
              minus(t.left, x.id);
              then(t);
            });
          if (x.form !== 'set' || !contents.get(x.productId)?.some((c) => c.productId === productId)) return;
          if ((s.loose.get(k) ?? 0) > 0)
            next((t) => {
              minus(t.loose, k);
              then(t);
            });
          if ((s.left.get(x.id) ?? 0) > 0)
            next((t) => {
              minus(t.left, x.id);
              for (const c of contents.get(x.productId) ?? [])
                t.loose.set(`${x.id}/${c.productId}`, (t.loose.get(`${x.id}/${c.productId}`) ?? 0) + 1);
              minus(t.loose, k);
              then(t);
            });
        };
        if (n.amount === 'whole') {
          withWhole(use);
          continue;
        }
        if (x.form === 'half' && x.productId === productId && (s.left.get(x.id) ?? 0) > 0)
          next((t) => {
            minus(t.left, x.id);
            use(t);
          });
        if ((s.cut.get(k) ?? 0) > 0)
          next((t) => {
            minus(t.cut, k);
            use(t);
          });
        withWhole((t) => {
          t.cut.set(k, (t.cut.get(k) ?? 0) + 1);
          t.cost += 1;
          use(t);
        });
      }
  };
  go(0, { left: new Map(p.supplies.map((s) => [s.id, s.count])), loose: new Map(), cut: new Map(), cost: 0 });
  return best;
}

describe('what to open', () => {
  it('costs what trying everything costs, on any small shelf', () => {
    const supplies = fc.uniqueArray(
      fc.constantFrom(
        supply('S1', 'light', 'set', 1),
        supply('S2', 'light', 'set', 2, { ageDays: 90 }),
        supply('S3', 'heavy', 'set', 1),
        supply('e1', 'e', 'single', 1),
        supply('b1', 'b', 'single', 2, { sealed: true }),
        supply('g1', 'g', 'half', 1),
        supply('g2', 'g', 'single', 1),
      ),
      { selector: (s) => s.id, maxLength: 5 },
    );
    const needs = fc.uniqueArray(
      fc.constantFrom(
        need('n1', ['e'], 1),
        need('n2', ['e', 'h'], 2),
        need('n3', ['b'], 1),
        need('n4', ['g'], 2, 'half'),
        need('n5', ['g'], 1),
        need('n6', ['g'], 1, 'half'),
      ),
      { selector: (n) => n.id, maxLength: 3 },
    );
    fc.assert(
      fc.property(supplies, needs, (s, n) => {
        const problem = { needs: n, supplies: s, spares: [], contents };
        const opening = new Opening(problem);
        const plan = opening.solve(highs, { seconds: 10 });
        expect(plan?.objective).toBeCloseTo(bruteForce(problem), 4);
        expect(plan && gapOf(plan)).toBeLessThan(1e-4);
        expect(opening.quick().objective).toBeGreaterThanOrEqual((plan?.objective ?? 0) - 1e-6);
      }),
      { numRuns: 150 },
    );
  });

  it('lets one opened set and halves beat opening a set for each instrument', () => {
    // A hybrid takes its e and g from a light set whose b is left: two ukuleles live on the halves of one g.
    const problem = {
      needs: [
        need('hybrid e', ['e'], 1),
        need('hybrid b', ['h'], 1),
        need('ukuleles', ['g'], 2, 'half'),
        need('b', ['b'], 1),
      ],
      supplies: [supply('L', 'light', 'set', 3), supply('H', 'heavy', 'set', 3)],
      spares: [],
      contents,
    };
    const plan = new Opening(problem).solve(highs);
    expect(plan?.opens).toEqual([
      { supplyId: 'L', count: 1 },
      { supplyId: 'H', count: 1 },
    ]);
    expect(plan?.halves).toEqual([{ supplyId: 'L', productId: 'g', count: 1 }]);
    expect(plan?.leftovers).toEqual([{ productId: 'b', form: 'single', count: 1 }]);
    // Each instrument opening its own would take three packs.
    const naive = problem.needs.reduce(
      (sum, n) => sum + (new Opening({ ...problem, needs: [n] }).quick().opens[0]?.count ?? 0),
      0,
    );
    expect(naive).toBeGreaterThan(plan?.opens.reduce((sum, o) => sum + o.count, 0) ?? 0);
  });

  it('takes a spare along unopened, says when there is none, and keeps to places and days', () => {
    const problem: OpeningProblem = {
      needs: [{ ...need('n', ['e', 'h'], 1), placeId: 2 }],
      supplies: [
        supply('here', 'e', 'single', 1, { placeId: 1, travels: false }),
        supply('later', 'light', 'set', 5, { from: '2026-03-02' }),
        supply('H', 'heavy', 'set', 2),
      ],
      spares: [
        { productId: 'h', placeId: 2, on: '2026-03-01' },
        { productId: 'e', placeId: 2, on: '2026-03-01' },
      ],
      contents,
    };
    const plan = new Opening(problem).solve(highs);
    expect(plan?.uses).toMatchObject([{ productId: 'h', supplyId: 'H' }]);
    expect(plan?.spares).toEqual([{ supplyId: 'H', productId: 'heavy', count: 1 }]);
    expect(plan?.spareShort).toEqual(['e']);
    // A spare that is missing weighs in the choice, and is no money spent.
    expect((plan?.objective ?? 0) - (plan?.costCents ?? 0)).toBeCloseTo(300, 6);
    expect(plan?.short).toEqual([]);
  });
});
