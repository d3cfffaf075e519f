import { z } from 'zod';
import { openJob } from '../../../../server/bench/jobs';
import { changing } from '../../../api/endpoint';

export const POST = changing(z.object({ tag: z.string() }), (acting, body, { locals }) =>
  openJob(locals.db, acting, body.tag),
);
