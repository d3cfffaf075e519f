import { giveHouseStrings } from '../../../../../server/stock/catalogue';
import { changing } from '../../../../api/endpoint';
import { HouseStringsShape } from '../../../../api/shapes';

export const POST = changing(HouseStringsShape, (acting, body, { locals, params }) =>
  giveHouseStrings(locals.db, acting, { tag: params.tag ?? '', ...body }),
);
