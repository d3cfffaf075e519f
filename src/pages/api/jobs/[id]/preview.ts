import type { APIRoute } from 'astro';
import { z } from 'zod';
import { previewFinish } from '../../../../../server/bench/finish';
import { loadJob } from '../../../../../server/bench/jobs';
import { pathId } from '../../../../api/endpoint';
import { problem, problemOf } from '../../../../api/problem';
import { EntryShape } from '../../../../api/shapes';

const Shape = z.object({ entries: z.array(EntryShape) });

/** What finishing would take from the shelf. It changes nothing, so it needs no key. */
export const POST: APIRoute = async (context) => {
  const { db, person } = context.locals;
  const body = Shape.safeParse(await context.request.json().catch(() => null));
  if (!body.success)
    return problem({
      type: 'invalid',
      status: 400,
      title: 'Something is missing or wrong',
      detail: z.prettifyError(body.error),
    });
  try {
    const job = await loadJob(db, pathId(context));
    return Response.json(await previewFinish(db, person.id, job.instrumentId, body.data.entries));
  } catch (error) {
    return problemOf(error);
  }
};
