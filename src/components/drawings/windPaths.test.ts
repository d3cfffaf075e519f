import { expect, it } from 'vitest';
import { windPaths } from './windPaths';

const at = { radius: 40, holeV: 80, weight: 10 };

it('draws a coil for each turn begun and leaves on the inside', () => {
  for (const [turns, coils] of [
    [0.4, 1],
    [1.2, 1],
    [1.8, 2],
    [2.1, 2],
    [2.7, 3],
  ] as const) {
    const p = windPaths({ ...at, turns, over: 0, leaves: 1 });
    expect(p.front).toHaveLength(coils);
    expect(p.back).toHaveLength(coils - 1);
    expect(p.leavesAt.u).toBe(40);
  }
  expect(windPaths({ ...at, turns: 2, over: 0, leaves: -1 }).leavesAt.u).toBe(-40);
});

it('crosses back over the turns that went away from the wall', () => {
  const p = windPaths({ ...at, turns: 6, over: 0, away: 3, leaves: 1 });
  const starts = p.front.map((h) => h.from.v);
  expect(p.back).toHaveLength(4);
  expect(p.front).toHaveLength(7);
  expect(p.leavesAt.v).toBeLessThan(at.holeV);
  expect(starts.filter((v) => v > at.holeV).length).toBe(4);
});

it('puts as many turns before the hole as go over, and every other further than the last', () => {
  const starts = (over: 0 | 1 | 2) => windPaths({ ...at, turns: 4, over, leaves: 1 }).front.map((h) => h.from.v);
  for (const over of [0, 1, 2] as const) {
    expect(starts(over).filter((v) => v < at.holeV)).toHaveLength(over);
    const under = starts(over).filter((v) => v > at.holeV);
    expect([...under].sort((a, b) => a - b)).toEqual(under);
  }
});
