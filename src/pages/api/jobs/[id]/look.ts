import { LookShape } from '../../../../../contract/bench';
import { finishLook } from '../../../../../server/bench/look';
import { changing, pathId } from '../../../../api/endpoint';

export const POST = changing(
  LookShape,
  (acting, body, context) => finishLook(context.locals.db, acting, { jobId: pathId(context), ...body }),
  { lateJob: pathId },
);
