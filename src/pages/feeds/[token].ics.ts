import type { APIRoute } from 'astro';
import { feedOfToken } from '../../../server/access/feeds';
import { feedOf } from '../../../server/plan/calendar';
import { latestPlan } from '../../../server/plan/plans';
import { plannedSessions } from '../../../server/plan/sessions';
import { loadPeople, loadPlaces } from '../../../server/programme/programme';

/** The plan of a person or a place for calendar programs (RFC 5545), by an address that nobody guesses. */
export const GET: APIRoute = async ({ params, locals }) => {
  const { db, programme, today } = locals;
  const feed = programme ? await feedOfToken(db, params.token ?? '') : null;
  const everybody = !feed ? [] : feed.placeId === null ? await loadPeople(db) : await loadPlaces(db);
  const row = everybody.find((x) => x.id === (feed?.placeId ?? feed?.personId));
  if (!row || !feed)
    return new Response('This calendar address does not exist, or no longer works. Ask for a new one.', {
      status: 404,
    });
  const sessions = await plannedSessions(db, feed.placeId === null ? { personId: row.id } : { placeId: row.id }, {
    today,
    timeZone: programme.timeZone,
  });
  const plan = await latestPlan(db);
  return new Response(feedOf(`${row.name}, ${programme.name}`, sessions, plan?.at ?? 0), {
    headers: { 'content-type': 'text/calendar; charset=utf-8', 'cache-control': 'no-store' },
  });
};
