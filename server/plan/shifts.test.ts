import fc from 'fast-check';
import { expect, it } from 'vitest';
import { clockOf, leftOf, minuteOf, shiftOf } from '../../core/planning/shifts';
import { acting, smallProgramme } from '../../tests/support/small';
import { UserError } from '../errors';
import { addAvailability, setTravel } from './availability';
import { shiftsAhead } from './shifts';

const MINUTE = 60_000;

it('whatever hours people enter: nobody is in two places at once, ways are walked, and what was planned is found again', async () => {
  const { db } = await smallProgramme();
  for (const name of ['School', 'Hall']) await db('place').insert({ name, is_store: false, climate: 'even' });
  await db('programme').update({ time_zone: 'Europe/Berlin' });
  for (const [fromId, toId, minutes] of [
    [1, 2, 20],
    [2, 3, 35],
  ] as const)
    await setTravel(db, acting(), { fromId, toId, minutes });
  const way = new Map([
    ['1/2', 20],
    ['2/3', 35],
  ]);
  const between = (a: number, b: number) => way.get(`${Math.min(a, b)}/${Math.max(a, b)}`) ?? 0;
  const hours = fc.record({
    personId: fc.constantFrom(1, 2),
    placeId: fc.constantFrom(1, 2, 3),
    weekday: fc.constantFrom(6, 7),
    minutes: fc.integer({ min: 15, max: 300 }),
    starts: fc.integer({ min: 0, max: 95 }).map((quarter) => clockOf(15 * quarter)),
  });
  await fc.assert(
    fc.asyncProperty(fc.array(hours, { maxLength: 9 }), async (list) => {
      await db('availability').del();
      for (const h of list)
        await addAvailability(db, acting(), h).catch((error: unknown) => {
          // Two times at once, or past midnight: refused in words.
          if (!(error instanceof UserError)) throw error;
        });
      // The weekend on which the clocks go forward (IANA tz database).
      const shifts = await shiftsAhead(db, '2026-03-28', 2);
      expect(new Set(shifts.map((s) => s.id)).size).toBe(shifts.length);
      const kept = await db('availability');
      for (const s of shifts) {
        expect(s.endsAt).toBeGreaterThan(s.startsAt);
        expect(s.minutes).toBe((s.endsAt - s.startsAt) / MINUTE);
        expect(shiftOf(shifts, s)?.id).toBe(s.id);
        expect(shiftOf(shifts, { ...s, startsAt: s.endsAt - 1 })?.id).toBe(s.id);
        expect(leftOf(s, s.startsAt - 1)).toBe(s);
        expect(leftOf(s, s.endsAt)).toBeUndefined();
        const half = leftOf(s, s.startsAt + 2 * MINUTE);
        if (half)
          expect([half.id, half.minutes, minuteOf(half.starts)]).toEqual([s.id, s.minutes - 2, minuteOf(s.starts) + 2]);
      }
      for (const person of [1, 2])
        for (const on of ['2026-03-28', '2026-03-29']) {
          const own = shifts.filter((s) => s.personId === person && s.on === on);
          own.forEach((s, n) => {
            const before = own[n - 1];
            if (!before) return;
            // Later, and with time for the way; at one place there is a gap, or it would be one.
            expect(s.startsAt - before.endsAt).toBeGreaterThanOrEqual(between(before.placeId, s.placeId) * MINUTE);
            if (s.placeId === before.placeId) expect(s.startsAt).toBeGreaterThan(before.endsAt);
          });
          const home = own.at(-1);
          const ways = own.reduce((sum, s, n) => sum + between(own[n - 1]?.placeId ?? 1, s.placeId), 0);
          expect(own.reduce((sum, s) => sum + s.travelMinutes, 0)).toBe(ways + (home ? between(home.placeId, 1) : 0));
          // On a day without a change of the clocks all that was entered is there, less the ways.
          if (on === '2026-03-28') {
            const entered = kept.filter((a) => a.person_id === person && a.weekday === 6);
            expect(own.reduce((sum, s) => sum + s.minutes, 0)).toBeLessThanOrEqual(
              entered.reduce((sum, a) => sum + a.minutes, 0),
            );
          }
        }
    }),
    { numRuns: 60 },
  );
  await db.destroy();
});
