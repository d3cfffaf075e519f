import { z } from 'zod';
import { completeVisit } from '../../../../../server/today/today';
import { changing, pathId } from '../../../../api/endpoint';

const Shape = z.object({ expectedVersion: z.coerce.number().int(), note: z.string().max(1000).default('') });

export const POST = changing(Shape, (acting, body, context) =>
  completeVisit(context.locals.db, acting, { visitId: pathId(context), ...body }),
);
