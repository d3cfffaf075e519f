import { expect, it } from 'vitest';
import { dueChip, money, sayInstant, sayMinutes } from './words';

const now = Date.parse('2026-11-24T09:00:00Z');
const at = { today: '2026-11-24', now, horizon: '2026-12-18', timeZone: 'Europe/Berlin' };
const row = { dueOn: '2026-12-02', dueBy: 'use', broken: false, readyAt: null };

it('shows the state of an instrument by the word that matters most', () => {
  const chip = (more: Partial<typeof row> & { readyAt?: number | null }) =>
    dueChip({ ...row, ...more } as Parameters<typeof dueChip>[0], at);
  expect(chip({})).toEqual({ text: '2 Dec', kind: 'soon' });
  expect(chip({ dueOn: '2027-03-02' })).toEqual({ text: '2 Mar', kind: 'plain' });
  expect(chip({ dueOn: '2026-11-23' })).toEqual({ text: '1 day late', kind: 'late' });
  expect(chip({ dueOn: '2026-11-12' }).text).toBe('12 days late');
  expect(chip({ dueOn: '2026-11-24' }).text).toBe('today');
  expect(chip({ dueBy: 'concert', dueOn: '2026-12-15' })).toEqual({ text: 'by 15 Dec', kind: 'settling' });
  expect(chip({ dueBy: 'unknown-age' }).text).toBe('inspect first');
  expect(chip({ broken: true, dueOn: '2027-03-02' }).text).toBe('broken');
  expect(dueChip({ ...row, readyAt: now + 86_400_000 }, at).text).toBe('ready Wed 10:00');
});

it('says instants where the programme is, minutes as a person would, and money', () => {
  expect(sayInstant(now, now, 'Europe/Berlin')).toBe('Tue 10:00');
  expect(sayInstant(now + 30 * 86_400_000, now, 'UTC')).toBe('Thu 24 Dec 09:00');
  expect([7, 19.4, 52, 130, 120].map(sayMinutes)).toEqual(['7 min', '19 min', '50 min', '2 h 10 min', '2 h']);
  expect(money(940)).toBe('9.40');
});
