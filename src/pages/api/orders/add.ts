import { putOnDraft } from '../../../../server/stock/orders';
import { changing } from '../../../api/endpoint';
import { PutOnDraftShape } from '../../../api/shapes';

export const POST = changing(PutOnDraftShape, async (acting, body, { locals }) => {
  const { orderId } = await putOnDraft(locals.db, acting, body);
  return { orderId, location: `/stock/orders/${orderId}` };
});
