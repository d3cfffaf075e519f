import { openJob } from '../../../../server/bench/jobs';
import { changing } from '../../../api/endpoint';
import { OpenJobShape } from '../../../api/shapes';

export const POST = changing(OpenJobShape, (acting, body, { locals }) => openJob(locals.db, acting, body));
