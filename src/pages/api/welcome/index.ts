import type { APIRoute } from 'astro';
import { WelcomeShape } from '../../../../contract/people';
import { firstPassword } from '../../../../server/access/accounts';
import { initialsOf } from '../../../../server/programme/manage';
import { startProgramme } from '../../../../server/programme/programme';
import { enter } from '../../../api/access';
import { readBody } from '../../../api/endpoint';
import { problemOf } from '../../../api/problem';

export const POST: APIRoute = async (context) => {
  const { request, locals } = context;
  const body = await readBody(request, WelcomeShape);
  if (!body.ok) return body.answer;
  const { name, person, place, timeZone, a4Hz, password } = body.value;
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
    await enter(context, await firstPassword(locals.db, password));
    return Response.json({ location: '/programme' });
  } catch (error) {
    return problemOf(error);
  }
};
