import type { APIRoute } from 'astro';
import { changesAsTheyHappen } from '../../../server/live';
import { problem } from '../../api/problem';

/** That something was changed, as it happens. */
export const GET: APIRoute = ({ locals }) => {
  const changes = changesAsTheyHappen(locals.db, locals.person.id);
  return changes
    ? new Response(changes, { headers: { 'content-type': 'text/event-stream', 'cache-control': 'no-store' } })
    : problem({
        type: 'too-many',
        status: 503,
        title: 'Too many open pages',
        detail: 'This page can no longer update itself. Reload it to see what changed.',
      });
};
