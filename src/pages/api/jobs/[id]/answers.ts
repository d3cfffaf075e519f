import { saveAnswer } from '../../../../../server/bench/jobs';
import { changing, pathId } from '../../../../api/endpoint';
import { AnswerShape } from '../../../../api/shapes';

export const POST = changing(AnswerShape, (acting, body, context) =>
  saveAnswer(context.locals.db, acting, { jobId: pathId(context), ...body }),
);
