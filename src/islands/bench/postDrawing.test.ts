import { expect, it } from 'vitest';
import { postPaths } from './postDrawing';

const at = { centreX: 150, radius: 40, holeY: 80, weight: 10 };

it('draws a coil for each turn begun and leaves on the inside', () => {
  for (const [turns, coils] of [
    [0.4, 1],
    [1.2, 1],
    [1.8, 2],
    [2.1, 2],
    [2.7, 3],
  ] as const) {
    const p = postPaths({ ...at, turns, oneOver: false, leavesRight: true });
    expect(p.front).toHaveLength(coils);
    expect(p.back).toHaveLength(coils - 1);
    expect(p.leavesAt.x).toBe(190);
  }
  expect(postPaths({ ...at, turns: 2, oneOver: false, leavesRight: false }).leavesAt.x).toBe(110);
});

it('puts the first turn above the hole only when one goes over, and every other lower than the last', () => {
  const starts = (oneOver: boolean) =>
    postPaths({ ...at, turns: 3, oneOver, leavesRight: true }).front.map((d) => Number(d.split(' ')[1]?.split('Q')[0]));
  const [over, ...under] = starts(true);
  expect(over).toBeLessThan(at.holeY);
  expect(under.every((y, i) => y > (i === 0 ? at.holeY : (under[i - 1] as number)))).toBe(true);
  expect(starts(false).every((y) => y > at.holeY)).toBe(true);
});
