import { AnswerShape } from '../../../../../contract/bench';
import { saveAnswer } from '../../../../../server/bench/jobs';
import { changing, pathId } from '../../../../api/endpoint';

export const POST = changing(
  AnswerShape,
  (acting, body, context) => saveAnswer(context.locals.db, acting, { jobId: pathId(context), ...body }),
  { lateJob: pathId },
);
