import type { Knex } from 'knex';
import { addDays, type LocalDate } from '../../core/dates';
import { instantOf } from '../clock';
import { shiftsAhead } from './availability';
import type { Session } from './calendar';
import { latestPlan } from './plans';
import { PLAN_DAYS } from './problem';

/** Sessions of the plan in force: of a person wherever they are, or at a place whoever is there. */
export async function plannedSessions(
  db: Knex,
  of: { personId: number } | { placeId: number },
  p: { today: LocalDate; timeZone: string },
): Promise<Session[]> {
  const plan = await latestPlan(db);
  const places = new Map((await db('place')).map((x) => [x.id, x.name as string]));
  const people = new Map((await db('person')).map((x) => [x.id, x.name as string]));
  const shifts = await shiftsAhead(db, addDays(p.today, -7), PLAN_DAYS + 7);
  const sessions = new Map<
    string,
    { on: LocalDate; placeId: number; personId: number; tags: string[]; minutes: number }
  >();
  for (const i of plan?.items ?? []) {
    if ('personId' in of ? i.personId !== of.personId : i.placeId !== of.placeId) continue;
    const key = `${i.personId}-${i.on}-${i.placeId}`;
    const known = sessions.get(key) ?? { on: i.on, placeId: i.placeId, personId: i.personId, tags: [], minutes: 0 };
    sessions.set(key, { ...known, tags: [...known.tags, i.tag], minutes: known.minutes + i.minutes });
  }
  return [...sessions].map(([key, s]) => {
    const shift = shifts.find((x) => x.personId === s.personId && x.on === s.on && x.placeId === s.placeId);
    const [hour = 9, minute = 0] = (shift?.starts ?? '09:00').split(':').map(Number);
    const who = 'personId' in of ? '' : ` with ${people.get(s.personId)}`;
    return {
      id: `arvick-${key}`,
      start: instantOf(s.on, hour, p.timeZone) + minute * 60_000,
      minutes: Math.max(s.minutes, 15),
      summary: `Strings: ${s.tags.length === 1 ? s.tags[0] : `${s.tags.length} instruments`}${who}`,
      place: places.get(s.placeId) ?? '',
      tags: s.tags,
    };
  });
}
