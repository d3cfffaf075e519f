import { RetireShape } from '../../../../../../contract/people';
import { retirePlace } from '../../../../../../server/programme/manage';
import { changing, pathId } from '../../../../../api/endpoint';

export const POST = changing(RetireShape, (acting, body, context) =>
  retirePlace(context.locals.db, acting, { id: pathId(context), ...body }),
);
