import type { APIRoute } from 'astro';
import { database } from '../../server/db/connection';

/** Whether the server answers and can read its data, for whatever watches over it. It says nothing of the programme. */
export const GET: APIRoute = async () => {
  const headers = { 'content-type': 'text/plain; charset=utf-8', 'cache-control': 'no-store' };
  try {
    await (await database()).raw('select 1 from programme limit 1');
    return new Response('ok\n', { headers });
  } catch {
    return new Response('the data cannot be read\n', { status: 503, headers });
  }
};
