import { z } from 'zod';
import { setHorizon } from '../../../../server/people/people';
import { changing } from '../../../api/endpoint';
import { Day } from '../../../api/shapes';

export const POST = changing(z.object({ horizonOn: Day }), (acting, body, { locals }) =>
  setHorizon(locals.db, acting, body),
);
