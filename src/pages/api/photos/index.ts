import { PhotoShape } from '../../../../contract/fleet';
import { addPhoto } from '../../../../server/photos/photos';
import { changingBytes } from '../../../api/endpoint';

/** A photograph as it comes from a camera; it is written smaller and anew. */
export const POST = changingBytes(
  PhotoShape,
  (acting, { query, bytes }, { locals }) =>
    addPhoto(locals.db, acting, {
      ...(query.tag === undefined ? { jobId: query.job ?? -1 } : { tag: query.tag }),
      step: query.step,
      bytes,
    }),
  ({ url }) => (url.searchParams.has('tag') ? -1 : Number(url.searchParams.get('job'))),
);
