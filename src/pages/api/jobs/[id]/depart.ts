import { DepartShape } from '../../../../../contract/bench';
import { departJob } from '../../../../../server/bench/depart';
import { changing, pathId } from '../../../../api/endpoint';

export const POST = changing(DepartShape, (acting, body, context) =>
  departJob(context.locals.db, acting, { jobId: pathId(context), ...body }),
);
