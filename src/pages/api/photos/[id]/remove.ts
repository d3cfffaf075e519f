import { z } from 'zod';
import { removePhoto } from '../../../../../server/photos/photos';
import { changing, pathId } from '../../../../api/endpoint';

export const POST = changing(z.object({}), (acting, _, context) =>
  removePhoto(context.locals.db, acting, { id: pathId(context) }),
);
