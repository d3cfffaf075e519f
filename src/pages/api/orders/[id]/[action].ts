import { VersionShape } from '../../../../../contract/basics';
import { ConfirmShape, EditDraftShape, PostponeShape, ReceiveShape } from '../../../../../contract/stock';
import {
  cancelOrder,
  closeOrder,
  confirmOrder,
  editDraft,
  postponeOrder,
  receiveOrder,
  sendOrder,
} from '../../../../../server/stock/orders';
import { action, actions } from '../../../../api/actions';
import { pathId } from '../../../../api/endpoint';

export const POST = actions({
  edit: action(EditDraftShape, (by, body, c) => editDraft(c.locals.db, by, { orderId: pathId(c), ...body })),
  send: action(VersionShape, (by, body, c) => sendOrder(c.locals.db, by, { orderId: pathId(c), ...body })),
  postpone: action(PostponeShape, (by, body, c) => postponeOrder(c.locals.db, by, { orderId: pathId(c), ...body })),
  confirm: action(ConfirmShape, (by, body, c) => confirmOrder(c.locals.db, by, { orderId: pathId(c), ...body })),
  receive: action(ReceiveShape, async (by, body, c) => {
    const received = await receiveOrder(c.locals.db, by, { orderId: pathId(c), ...body });
    return {
      ...received,
      location: received.lotIds.length ? `/stock/labels?lots=${received.lotIds.join(',')}` : undefined,
    };
  }),
  close: action(VersionShape, (by, body, c) => closeOrder(c.locals.db, by, { orderId: pathId(c), ...body })),
  cancel: action(VersionShape, (by, body, c) => cancelOrder(c.locals.db, by, { orderId: pathId(c), ...body })),
});
