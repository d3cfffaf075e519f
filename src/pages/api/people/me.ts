import type { APIRoute } from 'astro';
import { MeShape } from '../../../../contract/people';
import { readBody } from '../../../api/endpoint';

const YEAR_S = 365 * 24 * 3600;

/** The light of this browser. Nothing of the programme changes, so a cookie is enough. */
export const POST: APIRoute = async ({ request, cookies }) => {
  const body = await readBody(request, MeShape);
  if (!body.ok) return body.answer;
  const { theme } = body.value;
  if (theme === 'system') cookies.delete('arvick_theme', { path: '/' });
  else cookies.set('arvick_theme', theme, { path: '/', sameSite: 'lax', maxAge: YEAR_S });
  return Response.json({ theme });
};
