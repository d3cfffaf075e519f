import { Readable } from 'node:stream';
import type { ReadableStream } from 'node:stream/web';
import type { APIRoute } from 'astro';
import { codeForFirst } from '../../../../server/access/accounts';
import { refused } from '../../../../server/errors';
import { bringHere } from '../../../../server/export/bring';
import { problemOf } from '../../../api/problem';

/** A whole programme from another machine, as the body, into one that is empty. */
export const POST: APIRoute = async ({ request, locals }) => {
  try {
    if (!request.body)
      throw refused('cannot-bring', 'No file chosen', 'Choose the exported programme file. Nothing was changed.');
    const brought = await bringHere(locals.db, Readable.fromWeb(request.body as ReadableStream));
    const { code, name } = await codeForFirst(locals.db, locals.now);
    return Response.json({ ...brought, code, name });
  } catch (error) {
    return problemOf(error);
  }
};
