import { z } from 'zod';
import { closeCase } from '../../../../../server/faults/cases';
import { changing, pathId } from '../../../../api/endpoint';

export const POST = changing(z.object({ expectedVersion: z.coerce.number().int() }), (acting, body, context) =>
  closeCase(context.locals.db, acting, { caseId: pathId(context), ...body }),
);
