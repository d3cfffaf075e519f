import type { APIRoute } from 'astro';
import { shownPicture } from '../../../server/photos/photos';

/** A photograph by its contents, which never change. */
export const GET: APIRoute = async ({ params, locals }) => {
  const picture = await shownPicture(locals.db, (params.hash ?? '').replace(/\.jpg$/, ''));
  if (!picture) return new Response('Photo not found.', { status: 404 });
  return new Response(new Uint8Array(picture), {
    headers: {
      'content-type': 'image/jpeg',
      'x-content-type-options': 'nosniff',
      'cache-control': 'private, max-age=600',
    },
  });
};
