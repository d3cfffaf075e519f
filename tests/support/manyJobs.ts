import { loadBulk } from '../../demo/bulk';
import { openDatabase } from '../../server/db/connection';

/** A programme in which some two thousand jobs fall due in the four weeks from the end of November 2026. */
export async function twoThousandJobs(folder: string, now: number): Promise<void> {
  await loadBulk(folder, { instruments: 2200, jobs: 2200 }, now, () => {});
  const db = await openDatabase(folder);
  const places: number[] = await db('place').pluck('id');
  const people: number[] = await db('person').whereNot({ role: 'teacher' }).pluck('id');
  for (const [k, person_id] of people.entries())
    for (let weekday = 1; weekday <= 5; weekday++)
      await db('availability').insert({
        person_id,
        place_id: places[(k + weekday) % places.length],
        weekday,
        minutes: 360,
        starts: '09:00',
      });
  await db('instrument_state').update({
    due_on: db.raw("date('2026-11-20', '+' || (instrument_id % 30) || ' days')"),
    due_by: 'calendar',
    due: db.raw("json_set(due, '$.by', 'calendar', '$.since', null, '$.inspection', null)"),
    due_work: 'change',
  });
  await db.destroy();
}
