import { KeepFactShape } from '../../../../../contract/fleet';
import { keepFact } from '../../../../../server/fleet/facts';
import { changing } from '../../../../api/endpoint';

export const POST = changing(KeepFactShape, (acting, body, { locals, params }) =>
  keepFact(locals.db, acting, { tag: params.tag ?? '', ...body }),
);
