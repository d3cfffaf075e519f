import { z } from 'zod';
import { addRecordNote } from '../../../../../server/bench/finish';
import { changing, pathId } from '../../../../api/endpoint';

export const POST = changing(z.object({ text: z.string().min(1).max(4000) }), (acting, body, context) =>
  addRecordNote(context.locals.db, acting, { recordId: pathId(context), ...body }),
);
