import type { APIRoute } from 'astro';
import { WelcomeShape } from '../../../contract/people';
import { startProgramme } from '../../../server/programme/programme';
import { readBody } from '../../api/endpoint';
import { problemOf } from '../../api/problem';

export const POST: APIRoute = async ({ request, locals }) => {
  const body = await readBody(request, WelcomeShape);
  if (!body.ok) return body.answer;
  const { name, person, place, timeZone, a4Hz } = body.value;
  const initials = person
    .split(/\s+/)
    .map((word) => word[0]?.toUpperCase() ?? '')
    .join('')
    .slice(0, 3);
  try {
    await startProgramme(
      locals.db,
      {
        name,
        timeZone,
        a4Hz,
        places: [{ name: place, isStore: true }],
        people: [{ name: person, initials, role: 'coordinator', place }],
        isDemo: false,
      },
      locals.now,
    );
    return Response.json({ location: '/' });
  } catch (error) {
    return problemOf(error);
  }
};
