import { z } from 'zod';
import { moveDesk } from '../../../../server/people/people';
import { changing } from '../../../api/endpoint';

export const POST = changing(z.object({ placeId: z.coerce.number().int() }), (acting, body, { locals }) =>
  moveDesk(locals.db, acting, body),
);
