import { EditProductShape } from '../../../../../contract/stock';
import { editProduct } from '../../../../../server/stock/edit';
import { changing, pathId } from '../../../../api/endpoint';

export const POST = changing(EditProductShape, (acting, body, context) =>
  editProduct(context.locals.db, acting, { ...body, id: pathId(context) }),
);
