import type { Knex } from 'knex';
import { addDays, type LocalDate } from '../../core/dates';
import { clockOf, minuteOf, type Shift } from '../../core/planning/shifts';
import { timeOf } from '../clock';
import { programmeRow } from '../programme/programme';
import { loadTravel, piecesOf } from './availability';

const MINUTE_MS = 60_000;

/**
 * Shifts of the days ahead, by person, then by time: hours of the week or of one day, without holidays and where somebody is away. Times
 * that follow on each other at one place are one shift; between two places what the way takes is cut off the later one.
 * Whoever is based elsewhere is there until the last way back leaves.
 */
export async function shiftsAhead(db: Knex, from: LocalDate, days: number): Promise<Shift[]> {
  const bases = new Map((await db('person').select('id', 'place_id')).map((p) => [p.id, p.place_id]));
  const { time_zone: timeZone } = await programmeRow(db);
  const until = addDays(from, days - 1);
  const piecesOn = await piecesOf(db, from, until);
  const travel = await loadTravel(db);
  const lastWays = new Map(
    (await db('place').whereNot({ last_way: '' }).select('id', 'last_way')).map((p) => [p.id, minuteOf(p.last_way)]),
  );
  const shifts: Shift[] = [];
  for (let d = 0; d < days; d++) {
    const on = addDays(from, d);
    /** The shifts of this day before the one looked at, of the same person. */
    let before: Shift | undefined;
    let base = 0;
    const home = () => {
      if (before) before.travelMinutes += travel(before.placeId, base);
    };
    for (const a of piecesOn(on)) {
      if (before && before.personId !== a.personId) {
        home();
        before = undefined;
      }
      base = bases.get(a.personId) ?? a.placeId;
      const begins = timeOf(on, a.from, timeZone);
      const last = base === a.placeId ? undefined : lastWays.get(a.placeId);
      const endsAt = timeOf(on, last === undefined ? a.to : Math.min(a.to, last), timeZone);
      if (endsAt <= begins) continue;
      if (before && before.placeId === a.placeId && before.endsAt >= begins) {
        before.endsAt = Math.max(before.endsAt, endsAt);
        before.minutes = (before.endsAt - before.startsAt) / MINUTE_MS;
        continue;
      }
      const way = travel(before?.placeId ?? base, a.placeId);
      const startsAt = before ? Math.max(begins, before.endsAt + way * MINUTE_MS) : begins;
      if (startsAt >= endsAt) continue;
      before = {
        id: `${a.id}/${on}`,
        personId: a.personId,
        placeId: a.placeId,
        on,
        startsAt,
        endsAt,
        minutes: (endsAt - startsAt) / MINUTE_MS,
        starts: clockOf(a.from + (startsAt - begins) / MINUTE_MS),
        travelMinutes: way,
      };
      shifts.push(before);
    }
    home();
  }
  return shifts;
}
