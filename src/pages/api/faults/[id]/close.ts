import { VersionShape } from '../../../../../contract/basics';
import { closeCase } from '../../../../../server/faults/cases';
import { changing, pathId } from '../../../../api/endpoint';

export const POST = changing(VersionShape, (acting, body, context) =>
  closeCase(context.locals.db, acting, { caseId: pathId(context), ...body }),
);
