import { createHash, timingSafeEqual } from 'node:crypto';
import type { APIRoute } from 'astro';
import { machineMetrics } from '../../server/access/health';

const digest = (text: string) => createHash('sha256').update(text).digest();

/** What is counted, for Prometheus: only to whoever knows the word that ARVICK_METRICS sets; without it there is none. */
export const GET: APIRoute = async ({ request }) => {
  const word = process.env.ARVICK_METRICS;
  const said = /^Bearer (.+)$/.exec(request.headers.get('authorization') ?? '')?.[1] ?? '';
  if (!word || !timingSafeEqual(digest(said), digest(word))) return new Response(null, { status: 404 });
  const { text, type } = await machineMetrics();
  return new Response(text, { headers: { 'content-type': type, 'cache-control': 'no-store' } });
};
