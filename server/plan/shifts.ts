import type { Knex } from 'knex';
import { addDays, type LocalDate, weekdayOf } from '../../core/dates';
import { clockOf, minuteOf, type Shift } from '../../core/planning/shifts';
import { timeOf } from '../clock';
import { programmeRow } from '../programme/programme';
import { loadTravel } from './availability';
import { holidaysAhead } from './holidays';

const MINUTE_MS = 60_000;

/**
 * Shifts of the days ahead, by person, then by time: what recurs, without holidays and the days somebody is away. Times
 * that follow on each other at one place are one shift; between two places what the way takes is cut off the later one.
 */
export async function shiftsAhead(db: Knex, from: LocalDate, days: number): Promise<Shift[]> {
  const weekly = await db('availability as a')
    .join('person as p', 'p.id', 'a.person_id')
    .orderBy(['a.person_id', 'a.weekday', 'a.starts'])
    .select('a.*', 'p.place_id as base');
  const { time_zone: timeZone } = await programmeRow(db);
  const until = addDays(from, days - 1);
  const away = new Set(
    (await db('availability_exception').whereBetween('on_day', [from, until])).map((e) => `${e.person_id}/${e.on_day}`),
  );
  const holidays = await holidaysAhead(db, from, until);
  const travel = await loadTravel(db);
  const shifts: Shift[] = [];
  for (let d = 0; d < days; d++) {
    const on = addDays(from, d);
    const weekday = weekdayOf(on);
    const closed = holidays.filter((h) => h.from <= on && on <= h.to);
    /** The shifts of this day before the one looked at, of the same person. */
    let before: Shift | undefined;
    let base = 0;
    const home = () => {
      if (before) before.travelMinutes += travel(before.placeId, base);
    };
    for (const a of weekly) {
      if (a.weekday !== weekday || away.has(`${a.person_id}/${on}`)) continue;
      if (closed.some((h) => h.placeId === null || h.placeId === a.place_id)) continue;
      if (before && before.personId !== a.person_id) {
        home();
        before = undefined;
      }
      base = a.base ?? a.place_id;
      const begins = timeOf(on, minuteOf(a.starts), timeZone);
      const endsAt = timeOf(on, minuteOf(a.starts) + a.minutes, timeZone);
      if (before && before.placeId === a.place_id && before.endsAt >= begins) {
        before.endsAt = Math.max(before.endsAt, endsAt);
        before.minutes = (before.endsAt - before.startsAt) / MINUTE_MS;
        continue;
      }
      const way = travel(before?.placeId ?? base, a.place_id);
      const startsAt = before ? Math.max(begins, before.endsAt + way * MINUTE_MS) : begins;
      if (startsAt >= endsAt) continue;
      before = {
        id: `${a.id}/${on}`,
        personId: a.person_id,
        placeId: a.place_id,
        on,
        startsAt,
        endsAt,
        minutes: (endsAt - startsAt) / MINUTE_MS,
        starts: startsAt === begins ? a.starts : clockOf(minuteOf(a.starts) + (startsAt - begins) / MINUTE_MS),
        travelMinutes: way,
      };
      shifts.push(before);
    }
    home();
  }
  return shifts;
}
