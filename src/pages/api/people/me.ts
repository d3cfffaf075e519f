import type { APIRoute } from 'astro';
import { MeShape } from '../../../../contract/people';
import { loadPerson } from '../../../../server/programme/programme';
import { readBody } from '../../../api/endpoint';
import { problem } from '../../../api/problem';

const YEAR_S = 365 * 24 * 3600;

/** Who sits at this browser, and its theme. Nothing of the programme changes, so cookies are enough. */
export const POST: APIRoute = async ({ request, cookies, locals }) => {
  const body = await readBody(request, MeShape);
  if (!body.ok) return body.answer;
  const options = { path: '/', sameSite: 'lax', maxAge: YEAR_S } as const;
  const { personId, theme } = body.value;
  if (personId !== undefined) {
    if ((await loadPerson(locals.db, personId)).id !== personId) {
      return problem({
        type: 'not-found',
        status: 404,
        title: 'Nobody by that number',
        detail: 'Choose one of the people of this programme.',
      });
    }
    cookies.set('arvick_person', String(personId), { ...options, httpOnly: true });
  }
  if (theme === 'system') cookies.delete('arvick_theme', { path: '/' });
  else if (theme) cookies.set('arvick_theme', theme, options);
  return Response.json({ personId: personId ?? locals.person.id });
};
