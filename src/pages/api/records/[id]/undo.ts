import { z } from 'zod';
import { undoFinish } from '../../../../../server/bench/finish';
import { changing, pathId } from '../../../../api/endpoint';

export const POST = changing(z.object({ reason: z.string().max(1000).default('') }), (acting, body, context) =>
  undoFinish(context.locals.db, acting, { recordId: pathId(context), ...body }),
);
