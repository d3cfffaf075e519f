import { finishJob } from '../../../../../server/bench/finish';
import { changing, pathId } from '../../../../api/endpoint';
import { FinishShape } from '../../../../api/shapes';

export const POST = changing(FinishShape, (acting, body, context) =>
  finishJob(context.locals.db, acting, { jobId: pathId(context), ...body }),
);
