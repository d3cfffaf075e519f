import { z } from 'zod';
import { moveDesk } from '../../../../server/people/people';
import { changing } from '../../../api/endpoint';
import { num } from '../../../api/numbers';

export const POST = changing(z.object({ placeId: num(z.int()) }), (acting, body, { locals }) =>
  moveDesk(locals.db, acting, body),
);
