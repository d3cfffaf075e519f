import { DetailsShape } from '../../../../../contract/fleet';
import { editDetails } from '../../../../../server/fleet/details';
import { changing } from '../../../../api/endpoint';

export const POST = changing(DetailsShape, (acting, body, { locals, params }) =>
  editDetails(locals.db, acting, { tag: params.tag ?? '', ...body }),
);
