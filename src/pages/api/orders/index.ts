import { DraftShape } from '../../../../contract/stock';
import { draftOrder } from '../../../../server/stock/orders';
import { changing } from '../../../api/endpoint';

export const POST = changing(DraftShape, async (acting, body, { locals }) => {
  const { orderId } = await draftOrder(locals.db, acting, body);
  return { orderId, location: `/stock/orders/${orderId}` };
});
