import { z } from 'zod';
import { cancelJob } from '../../../../../server/bench/jobs';
import { changing, pathId } from '../../../../api/endpoint';

export const POST = changing(z.object({ expectedVersion: z.coerce.number().int() }), (acting, body, context) =>
  cancelJob(context.locals.db, acting, { jobId: pathId(context), ...body }),
);
