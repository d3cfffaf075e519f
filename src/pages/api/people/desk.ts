import { z } from 'zod';
import { num } from '../../../../contract/basics';
import { moveDesk } from '../../../../server/people/people';
import { changing } from '../../../api/endpoint';

export const POST = changing(z.object({ placeId: num(z.int()) }), (acting, body, { locals }) =>
  moveDesk(locals.db, acting, body),
);
