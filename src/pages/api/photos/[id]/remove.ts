import { NothingShape } from '../../../../../contract/people';
import { removePhoto } from '../../../../../server/photos/photos';
import { changing, pathId } from '../../../../api/endpoint';

export const POST = changing(NothingShape, (acting, _, context) =>
  removePhoto(context.locals.db, acting, { id: pathId(context) }),
);
