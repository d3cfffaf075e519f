import { draftOrder } from '../../../../server/stock/orders';
import { changing } from '../../../api/endpoint';
import { DraftShape } from '../../../api/shapes';

export const POST = changing(DraftShape, async (acting, body, { locals }) => {
  const { orderId } = await draftOrder(locals.db, acting, body);
  return { orderId, location: `/stock/orders/${orderId}` };
});
