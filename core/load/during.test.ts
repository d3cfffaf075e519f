import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { defaultBuild } from '../instruments/defaults';
import { loadDuring, refuseLoad, SAFE_SHARE } from './during';

const cello = defaultBuild('cello', '4/4');
const pulls = new Map([
  [4, 128],
  [3, 130],
  [2, 135],
  [1, 165],
]);

describe('the load during a change', () => {
  it('comes back to where it began and never loses more than what is off, in any order and grouping', () => {
    fc.assert(
      fc.property(
        fc.shuffledSubarray([1, 2, 3, 4], { minLength: 1 }),
        fc.integer({ min: 1, max: 4 }),
        (order, size) => {
          const groups: number[][] = [];
          for (let i = 0; i < order.length; i += size) groups.push(order.slice(i, i + size));
          const { steps, leastShare } = loadDuring(cello.positions, pulls, groups);
          expect(steps.at(-1)?.totalN).toBeCloseTo(steps[0]?.totalN as number, 9);
          const heaviest = Math.max(...groups.map((g) => g.reduce((sum, n) => sum + (pulls.get(n) ?? 0), 0)));
          expect(leastShare).toBeCloseTo(1 - heaviest / 558, 9);
        },
      ),
    );
  });

  it('is refused on a floating bridge when too little stays, and says why', () => {
    const oneByOne = loadDuring(cello.positions, pulls, [[4], [3], [2], [1]]);
    expect(oneByOne.leastShare).toBeGreaterThan(SAFE_SHARE);
    expect(refuseLoad(cello, oneByOne)).toBeNull();
    const all = loadDuring(cello.positions, pulls, [[4, 3, 2, 1]]);
    expect(refuseLoad(cello, all)).toMatch(/4 strings at once would leave 0 %.*Change one string at a time/);
    expect(refuseLoad({ bridge: 'fixed', family: 'electric' }, all)).toBeNull();
  });

  it('leans least when a pair from both sides is off', () => {
    const lean = (groups: number[][]) => loadDuring(cello.positions, pulls, groups).worstLean;
    expect(
      lean([
        [4, 1],
        [3, 2],
      ]),
    ).toBeLessThan(
      lean([
        [4, 3],
        [2, 1],
      ]),
    );
  });
});
