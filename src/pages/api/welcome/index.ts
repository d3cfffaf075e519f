import type { APIRoute } from 'astro';
import { WelcomeShape } from '../../../../contract/people';
import { initialsOf } from '../../../../server/programme/manage';
import { startProgramme } from '../../../../server/programme/programme';
import { readBody } from '../../../api/endpoint';
import { problemOf } from '../../../api/problem';

export const POST: APIRoute = async ({ request, locals }) => {
  const body = await readBody(request, WelcomeShape);
  if (!body.ok) return body.answer;
  const { name, person, place, timeZone, a4Hz } = body.value;
  try {
    await startProgramme(
      locals.db,
      {
        name,
        timeZone,
        a4Hz,
        places: [{ name: place, isStore: true }],
        people: [{ name: person, initials: initialsOf(person), role: 'coordinator', place }],
        isDemo: false,
      },
      locals.now,
    );
    return Response.json({ location: '/programme' });
  } catch (error) {
    return problemOf(error);
  }
};
