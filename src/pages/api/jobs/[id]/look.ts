import { finishLook } from '../../../../../server/bench/look';
import { changing, pathId } from '../../../../api/endpoint';
import { LookShape } from '../../../../api/shapes';

export const POST = changing(LookShape, (acting, body, context) =>
  finishLook(context.locals.db, acting, { jobId: pathId(context), ...body }),
);
