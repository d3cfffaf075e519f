import type { APIRoute } from 'astro';
import { canRead } from '../../server/access/health';

/** Whether the server answers and can read its data, for whatever watches over it. It says nothing of the programme. */
export const GET: APIRoute = async () => {
  const well = await canRead();
  return new Response(well ? 'ok\n' : 'the data cannot be read\n', {
    status: well ? 200 : 503,
    headers: { 'content-type': 'text/plain; charset=utf-8', 'cache-control': 'no-store' },
  });
};
