import type { APIRoute } from 'astro';
import { Day } from '../../../contract/basics';
import { fleetQueryOf } from '../../../contract/fleet';
import { listFleet } from '../../../server/fleet/list';
import { problemOf } from '../../api/problem';

export const GET: APIRoute = async ({ url, locals }) => {
  try {
    const horizon = Day.safeParse(url.searchParams.get('horizon'));
    const at = { today: locals.today, now: locals.now, horizon: horizon.success ? horizon.data : locals.horizon };
    return Response.json(await listFleet(locals.db, fleetQueryOf(url.searchParams), at));
  } catch (error) {
    return problemOf(error);
  }
};
