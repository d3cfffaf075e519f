import { RecordNoteShape } from '../../../../../contract/bench';
import { addRecordNote, isOfSameInstrument } from '../../../../../server/bench/recordNote';
import { changing, pathId } from '../../../../api/endpoint';

export const POST = changing(
  RecordNoteShape,
  (acting, body, context) => addRecordNote(context.locals.db, acting, { recordId: pathId(context), ...body }),
  // What somebody meant to record, beside the record that was made before it on the same instrument.
  {
    lateJob: async (context, named) =>
      (await isOfSameInstrument(context.locals.db, { recordId: pathId(context), jobId: named })) ? named : -1,
  },
);
