import type { APIRoute } from 'astro';
import { PreviewIntervalShape } from '../../../../contract/methods';
import { readBeside } from '../../../../server/reads/reader';
import { readBody } from '../../../api/endpoint';
import { problemOf } from '../../../api/problem';

/** What an interval would do to the list of what is due. It changes nothing, so it needs no key. */
export const POST: APIRoute = async ({ request, locals }) => {
  const body = await readBody(request, PreviewIntervalShape);
  if (!body.ok) return body.answer;
  try {
    const at = { now: locals.now, timeZone: locals.programme.timeZone };
    return Response.json(await readBeside(locals.db, 'previewInterval', body.value, at));
  } catch (error) {
    return problemOf(error);
  }
};
