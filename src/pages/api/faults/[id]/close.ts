import { CloseCaseShape } from '../../../../../contract/bench';
import { closeCase } from '../../../../../server/faults/cases';
import { changing, pathId } from '../../../../api/endpoint';

export const POST = changing(CloseCaseShape, (acting, body, context) =>
  closeCase(context.locals.db, acting, { caseId: pathId(context), ...body }),
);
