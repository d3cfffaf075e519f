import { expect, it } from 'vitest';
import { PitchEstimator, type Reading } from './estimate';
import { PracticeInstrument } from './practice';
import { SteadyReading, verdictOf } from './steady';

const reading = (cents: number, hz = 330, more: Partial<Reading> = {}): Reading => ({
  number: 1,
  hz,
  cents,
  spreadCents: 0.1,
  inharmonicity: 0,
  periodHz: hz,
  clarity: 0.9,
  or: null,
  ...more,
});

it('shows a string at once, another only when frames agree, and lets unsure frames pass', () => {
  const steady = new SteadyReading();
  expect(steady.next(reading(-10))?.cents).toBe(-10);
  expect(steady.next(reading(0, 165))?.hz).toBe(330);
  expect(steady.next(reading(-8))?.hz).toBe(330);
  expect(steady.next(reading(0, 165))?.hz).toBe(330);
  expect(steady.next(reading(0, 165))?.hz).toBe(165);
  expect(steady.next(reading(4, 165, { spreadCents: 30 }))?.cents).toBe(0);
  for (let i = 0; i < 20; i++) steady.next(null);
  expect(steady.next(null)).toBeNull();
});

it('comes up from below and says so when above (common practice, no source)', () => {
  expect([-300, -20, 1, 20, 80].map((c) => verdictOf({ cents: c, hz: 330 }))).toEqual([
    'very-flat',
    'flat',
    'in-tune',
    'sharp',
    'very-sharp',
  ]);
  expect(verdictOf({ cents: 4.5, hz: 55 })).toBe('in-tune');
});

it('hears the practice instrument through the same estimator: flat at first, falling less with each stretch', () => {
  let seed = 9;
  const rng = () => {
    seed = (Math.imul(seed, 1664525) + 1013904223) >>> 0;
    return seed / 2 ** 32;
  };
  const strings = [
    { number: 2, hz: 246.94, core: 'steel' as const, wound: false },
    { number: 1, hz: 329.63, core: 'steel' as const, wound: false },
  ];
  const instrument = new PracticeInstrument(strings, rng);
  const estimator = new PitchEstimator(8192, 48_000);
  const hear = () => estimator.read(instrument.frame(1, 0.1, 48_000, 8192), strings);
  expect(hear()?.cents).toBeCloseTo(instrument.offsetCents(1), 0);
  const drops: number[] = [];
  for (let round = 0; round < 3; round++) {
    instrument.turn(1, -instrument.offsetCents(1));
    instrument.stretch(1);
    drops.push(-(hear()?.cents ?? 0));
  }
  expect(drops[0]).toBeGreaterThan(2 * (drops[1] as number));
  expect(drops[1]).toBeGreaterThan(drops[2] as number);
});
