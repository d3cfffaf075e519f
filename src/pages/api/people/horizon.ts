import { z } from 'zod';
import { Day } from '../../../../contract/basics';
import { setHorizon } from '../../../../server/people/people';
import { changing } from '../../../api/endpoint';

export const POST = changing(z.object({ horizonOn: Day }), (acting, body, { locals }) =>
  setHorizon(locals.db, acting, body),
);
