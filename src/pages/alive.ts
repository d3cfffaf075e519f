import type { APIRoute } from 'astro';

/** That the process answers at all; whether it can read its data says /health. */
export const GET: APIRoute = () =>
  new Response('alive\n', { headers: { 'content-type': 'text/plain; charset=utf-8', 'cache-control': 'no-store' } });
