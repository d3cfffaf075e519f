import type { APIRoute } from 'astro';
import { feedOf } from '../../../server/plan/calendar';
import { latestPlan } from '../../../server/plan/plans';
import { plannedSessions } from '../../../server/plan/sessions';
import { loadPeople, loadPlaces } from '../../../server/programme/programme';

/** The plan of a person, by number, or of a place, as `place-3`, for calendar programs (RFC 5545). */
export const GET: APIRoute = async ({ params, locals }) => {
  const { db, programme, today } = locals;
  const [, place, number] = /^(place-)?(\d+)$/.exec(params.who ?? '') ?? [];
  const everybody = place ? await loadPlaces(db) : await loadPeople(db);
  const row = everybody.find((x) => x.id === Number(number));
  if (!row) return new Response('There is nobody and no place of this number.', { status: 404 });
  const sessions = await plannedSessions(db, place ? { placeId: row.id } : { personId: row.id }, {
    today,
    timeZone: programme.timeZone,
  });
  const plan = await latestPlan(db);
  return new Response(feedOf(`${row.name}, ${programme.name}`, sessions, plan?.at ?? 0), {
    headers: { 'content-type': 'text/calendar; charset=utf-8' },
  });
};
