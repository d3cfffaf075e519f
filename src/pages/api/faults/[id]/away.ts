import { VersionShape } from '../../../../../contract/basics';
import { sendAway } from '../../../../../server/faults/away';
import { changing, pathId } from '../../../../api/endpoint';

export const POST = changing(VersionShape, (acting, body, context) =>
  sendAway(context.locals.db, acting, { ...body, caseId: pathId(context) }),
);
