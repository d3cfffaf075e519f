import { z } from 'zod';
import { num } from '../../../../../contract/basics';
import { cancelJob } from '../../../../../server/bench/jobs';
import { changing, pathId } from '../../../../api/endpoint';

export const POST = changing(z.object({ expectedVersion: num(z.int()) }), (acting, body, context) =>
  cancelJob(context.locals.db, acting, { jobId: pathId(context), ...body }),
);
