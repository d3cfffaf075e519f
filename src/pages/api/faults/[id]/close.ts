import { z } from 'zod';
import { num } from '../../../../../contract/basics';
import { closeCase } from '../../../../../server/faults/cases';
import { changing, pathId } from '../../../../api/endpoint';

export const POST = changing(z.object({ expectedVersion: num(z.int()) }), (acting, body, context) =>
  closeCase(context.locals.db, acting, { caseId: pathId(context), ...body }),
);
