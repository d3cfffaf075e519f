import { EditSupplierShape, supplierSaid } from '../../../../../../contract/stock';
import { editSupplier } from '../../../../../../server/stock/orders';
import { changing, pathId } from '../../../../../api/endpoint';

export const POST = changing(EditSupplierShape, (acting, body, context) =>
  editSupplier(context.locals.db, acting, { ...supplierSaid(body), id: pathId(context) }),
);
