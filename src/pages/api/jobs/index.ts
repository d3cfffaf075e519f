import { OpenJobShape } from '../../../../contract/bench';
import { openJob } from '../../../../server/bench/jobs';
import { changing } from '../../../api/endpoint';

export const POST = changing(OpenJobShape, (acting, body, { locals }) => openJob(locals.db, acting, body));
