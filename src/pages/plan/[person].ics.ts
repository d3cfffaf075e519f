import type { APIRoute } from 'astro';
import ical from 'ical-generator';
import { addDays } from '../../../core/dates';
import { instantOf } from '../../../server/clock';
import { shiftsAhead } from '../../../server/plan/availability';
import { latestPlan } from '../../../server/plan/plans';
import { PLAN_DAYS } from '../../../server/plan/problem';

/** What a person has to do by the published plan, as a calendar other programs read (RFC 5545). */
export const GET: APIRoute = async ({ params, locals }) => {
  const { db, programme, today } = locals;
  const person = await db('person')
    .where({ id: Number(params.person) || -1 })
    .first();
  if (!person) return new Response('There is nobody of this number.', { status: 404 });
  const plan = await latestPlan(db);
  const places = new Map((await db('place')).map((p) => [p.id, p.name as string]));
  const shifts = await shiftsAhead(db, addDays(today, -7), PLAN_DAYS + 7);
  const calendar = ical({ name: `${person.name}, ${programme.name}`, prodId: { company: 'Arvick', product: 'plan' } });
  const sessions = new Map<string, { on: string; placeId: number; tags: string[]; minutes: number }>();
  for (const i of plan?.items ?? []) {
    if (i.personId !== person.id) continue;
    const key = `${i.on}/${i.placeId}`;
    const known = sessions.get(key) ?? { on: i.on, placeId: i.placeId, tags: [], minutes: 0 };
    known.tags.push(i.tag);
    known.minutes += i.minutes;
    sessions.set(key, known);
  }
  for (const s of sessions.values()) {
    const shift = shifts.find((x) => x.personId === person.id && x.on === s.on && x.placeId === s.placeId);
    const [hour, minute] = (shift?.starts ?? '09:00').split(':').map(Number) as [number, number];
    const start = instantOf(s.on, hour, programme.timeZone) + minute * 60_000;
    calendar.createEvent({
      id: `arvick-${person.id}-${s.on}-${s.placeId}`,
      start: new Date(start),
      end: new Date(start + Math.max(s.minutes, 15) * 60_000),
      stamp: new Date(plan?.at ?? 0),
      summary: `Strings: ${s.tags.length === 1 ? s.tags[0] : `${s.tags.length} instruments`}`,
      location: places.get(s.placeId) ?? '',
      description: s.tags.join(', '),
    });
  }
  return new Response(calendar.toString(), { headers: { 'content-type': 'text/calendar; charset=utf-8' } });
};
