import { UndoShape } from '../../../../../contract/bench';
import { undoFinish } from '../../../../../server/bench/undo';
import { changing, pathId } from '../../../../api/endpoint';

export const POST = changing(UndoShape, (acting, body, context) =>
  undoFinish(context.locals.db, acting, { recordId: pathId(context), ...body }),
);
