import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { addDays } from '../dates';
import { HOUSE_CARE } from './care';
import { conditionOf, type InspectionAnswers } from './condition';
import { dueOf } from './due';
import { CLIMATES, exposedRule, lifeUsed, PLAYERS, wearFactors } from './exposure';
import { oneOrSet } from './oneOrSet';

const rule = HOUSE_CARE['steel-acoustic'];
const answer = fc.constantFrom(0 as const, 1 as const, 2 as const);
const answers: fc.Arbitrary<InspectionAnswers> = fc.record({
  sound: answer,
  look: answer,
  feel: answer,
  tune: answer,
  winding: answer,
});

describe('exposure', () => {
  it('wears faster in sea air and hard hands, slower when coated, and never moves the yearly limit', () => {
    fc.assert(
      fc.property(fc.constantFrom(...CLIMATES), fc.constantFrom(...PLAYERS), (climate, player) => {
        const bare = wearFactors({ climate, player, coated: false });
        expect(wearFactors({ climate, player, coated: true }).perHour).toBeLessThan(bare.perHour);
        const exposed = exposedRule(rule, { climate, player, coated: false });
        expect(exposed.neverOverDays).toBe(rule.neverOverDays);
        expect(exposed.calendarDays).toBeLessThanOrEqual(exposed.neverOverDays);
      }),
    );
    expect(exposedRule(rule, { climate: 'sea-air', player: 'hard', coated: false }).playHours).toBe(25);
    expect(exposedRule(rule, { climate: 'even', player: 'average', coated: false })).toEqual(rule);
  });

  it('life used adds up over periods of different use and is spent on the due day (Palmgren–Miner)', () => {
    const use = [
      { fromDay: '2026-01-01', toDay: '2026-02-01', hoursPerWeek: 3 },
      { fromDay: '2026-02-01', toDay: null, hoursPerWeek: 6 },
    ];
    const strings = [{ number: 1, fittedOn: '2026-01-01', state: 'on' as const }];
    const due = dueOf({ strings, rule, use, reports: [], concerts: [], settlingDays: 1, knownSince: '2026-01-01' });
    const at = (today: string) => lifeUsed({ rule, use, fittedOn: '2026-01-01', today });
    expect(due.by).toBe('use');
    expect(at(due.on).used).toBeGreaterThanOrEqual(1);
    expect(at(addDays(due.on, -1)).used).toBeLessThan(1);
    expect(at('2026-02-01').byUse).toBeCloseTo(((31 / 7) * 3) / 60, 9);
  });
});

describe('condition', () => {
  it('gets no better by a worse answer', () => {
    fc.assert(
      fc.property(answers, fc.constantFrom('sound', 'look', 'feel', 'tune', 'winding'), (a, item) => {
        const worse = { ...a, [item]: Math.min(2, a[item as keyof typeof a] + 1) } as InspectionAnswers;
        expect(conditionOf(worse).score).toBeLessThanOrEqual(conditionOf(a).score);
      }),
    );
    const good: InspectionAnswers = { sound: 0, look: 0, feel: 0, tune: 0, winding: 0 };
    expect(conditionOf(good)).toMatchObject({ score: 100, verdict: 'good' });
    expect(conditionOf({ ...good, winding: 2 })).toMatchObject({ verdict: 'change', because: 'a winding is loose' });
  });

  it('overrides the other schools until the strings are changed', () => {
    const base = { rule, use: [], reports: [], concerts: [], settlingDays: 1, knownSince: '2026-01-01' };
    const strings = [{ number: 1, fittedOn: '2026-03-01', state: 'on' as const }];
    const look = { score: 30, verdict: 'change' as const, because: 'sounds dull' };
    expect(dueOf({ ...base, strings, inspection: { ...look, on: '2026-04-01' } })).toMatchObject({
      on: '2026-04-01',
      by: 'condition',
    });
    expect(dueOf({ ...base, strings, inspection: { ...look, on: '2026-02-01' } }).by).toBe('calendar');
    const soon = { on: '2026-04-01', score: 60, verdict: 'soon' as const, because: 'grimy' };
    expect(dueOf({ ...base, strings, inspection: soon })).toMatchObject({ on: '2026-04-15', by: 'condition' });
    const byCondition = { ...base, rule: { ...rule, school: 'condition' as const } };
    expect(dueOf({ ...byCondition, strings })).toMatchObject({ on: '2026-05-30', by: 'condition', inspection: null });
    const fine = { on: '2026-12-01', score: 100, verdict: 'good' as const, because: '' };
    expect(dueOf({ ...byCondition, strings, inspection: fine })).toMatchObject({ on: '2027-03-01' });
  });
});

it('weighs one string against the set', () => {
  const p = {
    restUsed: 0.2,
    matchingSingle: true,
    mismatchMatters: false,
    dueInDays: 100,
    concertInDays: null,
    settlingDays: 1,
  };
  expect(oneOrSet(p).change).toBe('one');
  expect(oneOrSet({ ...p, restUsed: 0.8 })).toMatchObject({
    change: 'set',
    reasons: ['the other strings have used 80 % of their life'],
  });
  expect(oneOrSet({ ...p, restUsed: 0.5, matchingSingle: false }).change).toBe('set');
  expect(oneOrSet({ ...p, restUsed: 0.9, concertInDays: 1, settlingDays: 2 }).change).toBe('one');
});
