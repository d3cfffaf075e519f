import type { APIRoute } from 'astro';
import { DraftQueryShape } from '../../../../../contract/intake';
import { notFound } from '../../../../../server/errors';
import { intakeProgress } from '../../../../../server/intake/run';
import { readBeside } from '../../../../../server/reads/reader';
import { pathId } from '../../../../api/endpoint';
import { problemOf } from '../../../../api/problem';

/** A sheet as it stands: what it would do, what has to be asked, some of its rows. */
export const GET: APIRoute = async (context) => {
  const { url, locals } = context;
  try {
    const id = pathId(context);
    const query = DraftQueryShape.parse(Object.fromEntries(url.searchParams));
    if (url.searchParams.has('progress')) return Response.json(intakeProgress(locals.db, id));
    const view = await readBeside(locals.db, 'viewIntake', { ...query, id, now: locals.now });
    return view ? Response.json(view) : problemOf(notFound('This sheet'));
  } catch (error) {
    return problemOf(error);
  }
};
