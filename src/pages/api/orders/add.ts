import { PutOnDraftShape } from '../../../../contract/stock';
import { putOnDraft } from '../../../../server/stock/orders';
import { changing } from '../../../api/endpoint';

export const POST = changing(PutOnDraftShape, async (acting, body, { locals }) => {
  const { orderId } = await putOnDraft(locals.db, acting, body);
  return { orderId, location: `/stock/orders/${orderId}` };
});
