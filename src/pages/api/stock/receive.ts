import { z } from 'zod';
import { num } from '../../../../contract/basics';
import { receive } from '../../../../server/stock/moves';
import { changing } from '../../../api/endpoint';

const Shape = z.object({
  productId: num(z.int()),
  quantity: num(z.int().min(1).max(1000)),
  placeId: num(z.int()),
  cents: num(z.int().min(0).max(10_000_000)).nullable().default(null),
});

export const POST = changing(Shape, (acting, { cents, ...body }, { locals }) =>
  receive(locals.db, acting, { ...body, unitCostCents: cents }),
);
