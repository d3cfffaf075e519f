import { z } from 'zod';
import { receive } from '../../../../server/stock/moves';
import { changing } from '../../../api/endpoint';

const Shape = z.object({
  productId: z.coerce.number().int(),
  quantity: z.coerce.number().int().min(1).max(1000),
  placeId: z.coerce.number().int(),
  cents: z.coerce.number().int().min(0).max(10_000_000).nullable().default(null),
});

export const POST = changing(Shape, (acting, { cents, ...body }, { locals }) =>
  receive(locals.db, acting, { ...body, unitCostCents: cents }),
);
