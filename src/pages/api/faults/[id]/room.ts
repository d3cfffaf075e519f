import { RoomShape } from '../../../../../contract/bench';
import { askToLook } from '../../../../../server/faults/room';
import { changing, pathId } from '../../../../api/endpoint';

export const POST = changing(RoomShape, (acting, body, context) =>
  askToLook(context.locals.db, acting, { caseId: pathId(context), ...body }),
);
