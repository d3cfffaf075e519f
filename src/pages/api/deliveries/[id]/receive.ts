import { ReceiveShape } from '../../../../../contract/stock';
import { receiveDelivery } from '../../../../../server/stock/orders';
import { changing, pathId } from '../../../../api/endpoint';

export const POST = changing(ReceiveShape, async (acting, body, context) => {
  const received = await receiveDelivery(context.locals.db, acting, { deliveryId: pathId(context), ...body });
  return {
    ...received,
    location: received.lotIds.length ? `/stock/labels?lots=${received.lotIds.join(',')}` : undefined,
  };
});
