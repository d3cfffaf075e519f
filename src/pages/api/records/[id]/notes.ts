import { RecordNoteShape } from '../../../../../contract/bench';
import { addRecordNote } from '../../../../../server/bench/finish';
import { changing, pathId } from '../../../../api/endpoint';

export const POST = changing(RecordNoteShape, (acting, body, context) =>
  addRecordNote(context.locals.db, acting, { recordId: pathId(context), ...body }),
);
