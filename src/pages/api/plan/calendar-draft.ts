import type { APIRoute } from 'astro';
import { CalendarShape, MOST_CALENDAR_BYTES } from '../../../../contract/plan';
import { draftCalendar } from '../../../../server/plan/calendar';
import { readBody } from '../../../api/endpoint';
import { problemOf } from '../../../api/problem';

/** What a calendar would do. It changes nothing, so it needs no key. */
export const POST: APIRoute = async ({ request, locals }) => {
  const body = await readBody(request, CalendarShape.pick({ text: true, about: true }), 2 * MOST_CALENDAR_BYTES);
  if (!body.ok) return body.answer;
  try {
    const { db, today, programme } = locals;
    return Response.json(
      await draftCalendar(db, {
        ...body.value,
        today,
        timeZone: programme.timeZone,
      }),
    );
  } catch (error) {
    return problemOf(error);
  }
};
