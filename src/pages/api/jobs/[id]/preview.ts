import type { APIRoute } from 'astro';
import { PreviewShape } from '../../../../../contract/bench';
import { loadJob } from '../../../../../server/bench/jobs';
import { previewFinish } from '../../../../../server/bench/preview';
import { pathId, readBody } from '../../../../api/endpoint';
import { problemOf } from '../../../../api/problem';

/** What finishing would take from the shelf. It changes nothing, so it needs no key. */
export const POST: APIRoute = async (context) => {
  const { db, person } = context.locals;
  const body = await readBody(context.request, PreviewShape);
  if (!body.ok) return body.answer;
  try {
    const job = await loadJob(db, pathId(context));
    return Response.json(
      await previewFinish(db, person.id, { id: job.id, instrument_id: job.instrumentId }, body.value.entries),
    );
  } catch (error) {
    return problemOf(error);
  }
};
