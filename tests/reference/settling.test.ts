import { expect, it } from 'vitest';
import { endPullN } from '../../core/procedures/slackSchools';
import { readyAfterDays } from '../../core/settling/creep';
import { liftMm } from '../../core/winding/slack';

it('drift 18 ln(1 + t/0.25) cents meets 5 cents a day after 3.35 d by rate, 2.87312 d by the next day (calculus)', () => {
  const creep = { amountCents: 18, timeConstantDays: 0.25 };
  expect(readyAfterDays(creep, 5, 'rate')).toBeCloseTo(3.35, 9);
  expect(readyAfterDays(creep, 5, 'next-day')).toBeCloseTo(2.87312, 5);
});

it('a 648 mm string lifted 12 mm at 216 mm is 0.49971106 mm longer (Pythagoras)', () => {
  expect(liftMm(648, 216, 12) / 0.49971106).toBeCloseTo(1, 5);
});

it('turns round a post hold by the capstan equation: its holding factors e^(2πμn) as tabulated (m)', () => {
  // Rows: μ; columns: 1 to 5 turns. Rounded as the usual table of the Euler–Eytelwein formula gives them, from memory.
  const table: [number, number[]][] = [
    [0.1, [1.9, 3.5, 6.6, 12, 23]],
    [0.2, [3.5, 12, 43, 152, 535]],
    [0.3, [6.6, 43, 286, 1881, 12392]],
  ];
  for (const [friction, factors] of table)
    for (const [i, factor] of factors.entries()) {
      const ratio = 100 / endPullN(100, i + 1, friction);
      expect(Math.abs(ratio / factor - 1), `μ ${friction}, ${i + 1} turns`).toBeLessThan(0.035);
    }
});
