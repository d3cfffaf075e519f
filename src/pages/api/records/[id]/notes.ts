import { RecordNoteShape } from '../../../../../contract/bench';
import { addRecordNote } from '../../../../../server/bench/recordNote';
import { changing, pathId } from '../../../../api/endpoint';

export const POST = changing(RecordNoteShape, (acting, body, context) =>
  addRecordNote(context.locals.db, acting, { recordId: pathId(context), ...body }),
);
