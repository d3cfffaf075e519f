import { expect, it } from 'vitest';
import { laterByClock } from './clock';

const at = (text: string) => Date.parse(text);
const iso = (instant: number) => new Date(instant).toISOString();

// Clocks in Paris go forward on 29 March and back on 25 October 2026 (IANA time zone database).
it('a day later is the same time by the clock, also over the nights in which clocks change', () => {
  expect(iso(laterByClock(at('2026-03-28T14:00:00Z'), 24, 'Europe/Paris'))).toBe('2026-03-29T13:00:00.000Z');
  expect(iso(laterByClock(at('2026-10-24T13:00:00Z'), 24, 'Europe/Paris'))).toBe('2026-10-25T14:00:00.000Z');
  expect(iso(laterByClock(at('2026-10-24T13:00:00Z'), 72, 'Europe/Paris'))).toBe('2026-10-27T14:00:00.000Z');
  // Less than a day is counted in hours.
  expect(iso(laterByClock(at('2026-10-24T23:30:00Z'), 3, 'Europe/Paris'))).toBe('2026-10-25T02:30:00.000Z');
  expect(iso(laterByClock(at('2026-06-01T10:00:00Z'), 24, 'UTC'))).toBe('2026-06-02T10:00:00.000Z');
});
