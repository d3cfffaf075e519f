import { cancelOrder, editDraft, postponeOrder, sendOrder } from '../../../../../server/stock/orders';
import { action, actions } from '../../../../api/actions';
import { pathId } from '../../../../api/endpoint';
import { EditDraftShape, PostponeShape, VersionShape } from '../../../../api/shapes';

export const POST = actions({
  edit: action(EditDraftShape, (by, body, c) => editDraft(c.locals.db, by, { orderId: pathId(c), ...body })),
  send: action(VersionShape, (by, body, c) => sendOrder(c.locals.db, by, { orderId: pathId(c), ...body })),
  postpone: action(PostponeShape, (by, body, c) => postponeOrder(c.locals.db, by, { orderId: pathId(c), ...body })),
  cancel: action(VersionShape, (by, body, c) => cancelOrder(c.locals.db, by, { orderId: pathId(c), ...body })),
});
