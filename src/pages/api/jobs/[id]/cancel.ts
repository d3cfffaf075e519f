import { VersionShape } from '../../../../../contract/basics';
import { cancelJob } from '../../../../../server/bench/jobs';
import { changing, pathId } from '../../../../api/endpoint';

export const POST = changing(VersionShape, (acting, body, context) =>
  cancelJob(context.locals.db, acting, { jobId: pathId(context), ...body }),
);
