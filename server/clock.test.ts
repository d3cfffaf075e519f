import { afterEach, expect, it } from 'vitest';
import { instantOf, localDate, now } from './clock';

const iso = (at: number) => new Date(at).toISOString();

it('takes the first of two hours and the hour before the gap when clocks change (RFC 5545 3.3.5)', () => {
  // New York, 2007: 01:00 on 4 November happens twice, 02:00 on 11 March not at all.
  expect(iso(instantOf('2007-11-04', 1, 'America/New_York'))).toBe('2007-11-04T05:00:00.000Z');
  expect(iso(instantOf('2007-03-11', 2, 'America/New_York'))).toBe('2007-03-11T07:00:00.000Z');
});

it('knows which day it is where the programme is', () => {
  const at = Date.parse('2026-11-24T23:30:00Z');
  expect(localDate(at, 'Atlantic/Faroe')).toBe('2026-11-24');
  expect(localDate(at, 'Europe/Berlin')).toBe('2026-11-25');
  expect(localDate(at, 'Pacific/Honolulu')).toBe('2026-11-24');
});

const before = process.env.ARVICK_NOW;
afterEach(() => {
  if (before === undefined) delete process.env.ARVICK_NOW;
  else process.env.ARVICK_NOW = before;
});

it('can be frozen, and refuses what is no instant', () => {
  process.env.ARVICK_NOW = '2026-11-24T09:00:00Z';
  expect(iso(now())).toBe('2026-11-24T09:00:00.000Z');
  process.env.ARVICK_NOW = 'noon';
  expect(() => now()).toThrow('ARVICK_NOW');
});
