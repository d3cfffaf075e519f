import { z } from 'zod';
import { receive } from '../../../../server/stock/products';
import { changing } from '../../../api/endpoint';

const Shape = z.object({
  productId: z.coerce.number().int(),
  quantity: z.coerce.number().int().min(1).max(1000),
  placeId: z.coerce.number().int(),
});

export const POST = changing(Shape, (acting, body, { locals }) =>
  receive(locals.db, acting, { ...body, unitCostCents: null }),
);
