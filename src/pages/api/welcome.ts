import type { APIRoute } from 'astro';
import { z } from 'zod';
import { num } from '../../../contract/basics';
import { startProgramme } from '../../../server/programme/programme';
import { readBody } from '../../api/endpoint';
import { problemOf } from '../../api/problem';

const zones = new Set(Intl.supportedValuesOf('timeZone'));
const Shape = z.object({
  name: z.string().trim().min(1, 'Give the programme a name').max(80),
  person: z.string().trim().min(1, 'Give your name').max(60),
  place: z.string().trim().min(1, 'Name the place with the string shelf').max(60),
  timeZone: z.string().refine((zone) => zone === 'UTC' || zones.has(zone), 'a time zone such as Europe/Dublin'),
  a4Hz: num(z.number().min(415).max(466)),
});

export const POST: APIRoute = async ({ request, locals }) => {
  const body = await readBody(request, Shape);
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
