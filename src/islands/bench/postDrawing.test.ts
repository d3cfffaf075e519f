import { expect, it } from 'vitest';
import { postPaths } from './postDrawing';

const at = { centreX: 150, radius: 40, holeY: 80, weight: 10 };

it('draws one front for each turn and leaves on the inside', () => {
  for (const turns of [1, 2, 3]) {
    const p = postPaths({ ...at, turns, oneOver: false, leavesRight: true });
    expect(p.front).toHaveLength(turns);
    expect(p.leavesAt.x).toBeCloseTo(190, 6);
  }
  expect(postPaths({ ...at, turns: 2, oneOver: false, leavesRight: false }).leavesAt.x).toBeCloseTo(110, 6);
});

it('goes lower with every turn', () => {
  const y = (turns: number) => postPaths({ ...at, turns, oneOver: true, leavesRight: true }).leavesAt.y;
  expect(y(3)).toBeGreaterThan(y(2));
  expect(y(2)).toBeGreaterThan(at.holeY);
});
