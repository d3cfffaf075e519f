import type { Knex } from 'knex';
import { afterEach, beforeEach, expect, it } from 'vitest';
import { addDays } from '../../core/dates';
import { HOUSE_CARE } from '../../core/wear/care';
import { acting, houseEntries, NOW, smallProgramme } from '../../tests/support/small';
import { finishJob } from '../bench/finish';
import { openJob } from '../bench/jobs';
import { must } from '../db/must';
import { setClimate } from '../fleet/exposure';
import { loadInstrument } from '../fleet/instruments';
import { refreshInstrument } from '../fleet/state';
import { intervalHistory, intervalLines, previewInterval, saveInterval, withdrawInterval } from './intervals';

let db: Knex;
const TODAY = '2026-03-10';
const at = { now: NOW, timeZone: 'UTC' };
beforeEach(async () => {
  ({ db } = await smallProgramme());
});
afterEach(() => db.destroy());

async function change(tag: string, days: number) {
  const ago = () => acting(1, undefined, NOW - days * 86_400_000);
  const { jobId } = await openJob(db, ago(), { tag });
  const entries = (await houseEntries(db, tag)).map((e) => ({ ...e, found: true }));
  await finishJob(db, ago(), { jobId, expectedVersion: 1, entries, discard: [], notes: '', minutes: 15 });
}
const dueOn = async (tag: string) => must(await db('instrument_state').where({ tag }).first()).due_on;

it('an interval says what it would do, does it, and leaves the old one to go back to', async () => {
  await change('UK-1', 60);
  await change('UK-2', 60);
  const fitted = addDays(TODAY, -60);
  const usual = HOUSE_CARE.ukulele;
  const before = await dueOn('UK-1');
  const short = { ...usual, school: 'calendar' as const, calendarDays: 50 };
  const wanted = { scope: 'family' as const, of: 'ukulele', rule: short };

  const effect = await previewInterval(db, { ...wanted, by: TODAY }, at);
  expect(effect).toMatchObject({
    instruments: 2,
    dueNow: 0,
    dueThen: 2,
    sooner: 2,
    later: 0,
    become: ['UK-1', 'UK-2'],
  });
  expect(await dueOn('UK-1')).toBe(before);

  await expect(saveInterval(db, acting(), { ...wanted, expectedVersion: 1, why: ' ' })).rejects.toThrow(/short reason/);
  const once = acting();
  await saveInterval(db, once, { ...wanted, expectedVersion: 1, why: 'sweaty hands in spring' });
  // A double click counts once; a second person with the old page is told.
  await saveInterval(db, once, { ...wanted, expectedVersion: 1, why: 'sweaty hands in spring' });
  await expect(saveInterval(db, acting(2), { ...wanted, expectedVersion: 1, why: 'mine' })).rejects.toThrow(
    /Someone else has changed/,
  );
  expect(await dueOn('UK-1')).toBe(addDays(fitted, 50));
  expect(await dueOn('UK-2')).toBe(addDays(fitted, 50));
  expect(await intervalHistory(db, wanted)).toMatchObject([
    { version: 2, by: 'Ann Ex', why: 'sweaty hands in spring' },
    { version: 1, by: null },
  ]);
  await expect(saveInterval(db, acting(), { ...wanted, expectedVersion: 2, why: 'again' })).rejects.toThrow(
    /Nothing is different/,
  );
});

it('the narrowest interval holds: an instrument before its set, the set before the family; taken back, the wider one', async () => {
  await change('UK-1', 10);
  await change('UK-2', 10);
  const fitted = addDays(TODAY, -10);
  const set = String(must((await loadInstrument(db, { tag: 'UK-1' })).houseSetId));
  const days = (calendarDays: number) => ({ ...HOUSE_CARE.ukulele, school: 'calendar' as const, calendarDays });
  await saveInterval(db, acting(), { scope: 'product', of: set, rule: days(40), expectedVersion: 0, why: 'thin set' });
  // Whatever case the tag is written in.
  const own = { scope: 'instrument' as const, of: 'uk-2' };
  await saveInterval(db, acting(), { ...own, rule: days(20), expectedVersion: 0, why: 'taught on daily' });
  expect([await dueOn('UK-1'), await dueOn('UK-2')]).toEqual([addDays(fitted, 40), addDays(fitted, 20)]);
  // The family's no longer moves either of them, and says so.
  const family = { scope: 'family' as const, of: 'ukulele', rule: days(5), by: TODAY };
  expect((await previewInterval(db, family, at)).instruments).toBe(0);
  expect((await intervalLines(db)).filter((l) => l.scope !== 'family').map((l) => [l.name, l.instruments])).toEqual([
    [expect.any(String), 1],
    ['UK-2', 1],
  ]);

  const back = await previewInterval(db, { ...own, rule: null, by: addDays(fitted, 30) }, at);
  expect(back).toMatchObject({ instruments: 1, dueNow: 1, dueThen: 0, later: 1, leave: ['UK-2'] });
  await withdrawInterval(db, acting(), { ...own, expectedVersion: 1, why: '' });
  expect(await dueOn('UK-2')).toBe(addDays(fitted, 40));
  await saveInterval(db, acting(), { ...own, rule: days(15), expectedVersion: 2, why: 'again' });
  expect(await dueOn('UK-2')).toBe(addDays(fitted, 15));
});

it('what cannot be is refused in words, and changes nothing', async () => {
  const rule = HOUSE_CARE.violin;
  const save = (more: object) =>
    saveInterval(db, acting(), { scope: 'family', of: 'violin', rule, expectedVersion: 1, why: 'why not', ...more });
  await expect(save({ rule: { ...rule, calendarDays: 500 } })).rejects.toThrow(/never be reached/);
  await expect(save({ rule: { ...rule, playHours: Number.NaN } })).rejects.toThrow(/between 1 and/);
  await expect(save({ of: 'kazoo' })).rejects.toThrow(/not here|no longer|family/i);
  await expect(save({ scope: 'instrument', of: 'NO-1', expectedVersion: 0 })).rejects.toThrow(/NO-1/);
  expect(await db('interval_version').where('version', '>', 1)).toEqual([]);
});

it('states made anew together are those made one by one', async () => {
  for (const tag of ['AC-1', 'UK-1', 'VN-1']) await change(tag, 30);
  await setClimate(db, acting(), { placeId: 1, climate: 'sea-air' });
  const together = await db('instrument_state').orderBy('tag');
  for (const { instrument_id: id } of together) await refreshInstrument(db, id, at);
  expect(await db('instrument_state').orderBy('tag')).toEqual(together);
});
