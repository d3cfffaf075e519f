import fc from 'fast-check';
import { expect, it } from 'vitest';
import { clockOf, leftOf, minuteOf, shiftOf } from '../../core/planning/shifts';
import { acting, smallProgramme } from '../../tests/support/small';
import { UserError } from '../errors';
import {
  addAvailability,
  addOnce,
  loadAway,
  loadOnce,
  removeOnce,
  setAway,
  setTravel,
  swapPeople,
} from './availability';
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

const TUESDAY = '2026-03-10';
const THURSDAY = '2026-03-12';

it('somebody is away for days or for a part of one, works on one day only, and swaps with another, each taken back', async () => {
  const { db } = await smallProgramme();
  await db('place').insert({ name: 'Hall', is_store: false, climate: 'even' });
  const said = async () =>
    (await shiftsAhead(db, '2026-03-09', 5)).map(
      (s) => `${s.personId} ${s.on.slice(8)} ${s.placeId} ${s.starts} ${s.minutes}`,
    );
  for (const [personId, weekday, placeId] of [
    [1, 2, 1],
    [1, 4, 1],
    [2, 2, 2],
  ] as const)
    await addAvailability(db, acting(), { personId, placeId, weekday, minutes: 180, starts: '09:00' });
  const usual = ['1 10 1 09:00 180', '1 12 1 09:00 180', '2 10 2 09:00 180'];
  expect((await said()).sort()).toEqual(usual);

  // Half a day, then all of three days; the spans are told as such, and one word takes each back.
  await setAway(db, acting(), { personId: 1, on: TUESDAY, fromTime: '10:00', toTime: '11:00', why: 'dentist' });
  expect((await said()).sort()).toEqual(['1 10 1 09:00 60', '1 10 1 11:00 60', '1 12 1 09:00 180', '2 10 2 09:00 180']);
  // What somebody has said of a day is not written over by another who has not seen it.
  const ill = { personId: 1, on: TUESDAY, to: THURSDAY, why: 'ill' };
  await expect(setAway(db, acting(), ill)).rejects.toMatchObject({
    status: 409,
    detail: expect.stringContaining('Already away then: dentist'),
  });
  await setAway(db, acting(), { personId: 1, on: TUESDAY, why: '' });
  await setAway(db, acting(), ill);
  // The same once more changes nothing.
  await setAway(db, acting(), ill);
  expect(await loadAway(db, TUESDAY)).toMatchObject([{ from: TUESDAY, to: THURSDAY, why: 'ill', fromTime: '' }]);
  expect(await said()).toEqual(['2 10 2 09:00 180']);
  await setAway(db, acting(), { personId: 1, on: TUESDAY, to: THURSDAY, why: '' });
  expect((await said()).sort()).toEqual(usual);

  // On one day only, and not where they are already.
  const once = { personId: 2, placeId: 1, on: THURSDAY, starts: '13:00', minutes: 60 };
  const { onceId } = await addOnce(db, acting(), once);
  await expect(addOnce(db, acting(), { ...once, starts: '13:30' })).rejects.toMatchObject({ type: 'clash' });
  expect(await said()).toContain('2 12 1 13:00 60');
  expect((await said()).filter((s) => s.startsWith('2 '))).toHaveLength(2);
  await removeOnce(db, acting(), { id: onceId });

  await swapPeople(db, acting(), { on: TUESDAY, personId: 1, otherId: 2 });
  expect((await said()).sort()).toEqual(['1 10 2 09:00 180', '1 12 1 09:00 180', '2 10 1 09:00 180']);
  await expect(swapPeople(db, acting(), { on: THURSDAY, personId: 1, otherId: 2 })).rejects.toMatchObject({
    type: 'nothing-to-swap',
  });
  const [swap] = await loadOnce(db, TUESDAY);
  await removeOnce(db, acting(), { id: swap?.id ?? 0 });
  expect((await said()).sort()).toEqual(usual);
  await db.destroy();
});
