import { expect, it } from 'vitest';
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
