import type { APIRoute } from 'astro';
import { readPicture } from '../../../server/photos/files';
import { stillThere } from '../../../server/photos/photos';

/** A photograph by its contents, which never change. */
export const GET: APIRoute = async ({ params, locals }) => {
  const hash = (params.hash ?? '').replace(/\.jpg$/, '');
  // What was removed is not shown any more, also before its file goes at night.
  const picture = (await stillThere(locals.db, [hash])).has(hash) ? await readPicture(hash) : null;
  if (!picture) return new Response('Photo not found.', { status: 404 });
  return new Response(new Uint8Array(picture), {
    headers: {
      'content-type': 'image/jpeg',
      'x-content-type-options': 'nosniff',
      'cache-control': 'private, max-age=600',
    },
  });
};
