import { FinishShape } from '../../../../../contract/bench';
import { finishJob } from '../../../../../server/bench/finish';
import { changing, pathId } from '../../../../api/endpoint';

export const POST = changing(
  FinishShape,
  (acting, body, context) => finishJob(context.locals.db, acting, { jobId: pathId(context), ...body }),
  { lateJob: pathId },
);
