import { EditPlaceShape } from '../../../../../../contract/people';
import { editPlace } from '../../../../../../server/programme/manage';
import { changing, pathId } from '../../../../../api/endpoint';

export const POST = changing(EditPlaceShape, (acting, body, context) =>
  editPlace(context.locals.db, acting, { id: pathId(context), ...body }),
);
