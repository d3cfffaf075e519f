import { HouseStringsShape } from '../../../../../contract/fleet';
import { giveHouseStrings } from '../../../../../server/stock/catalogue';
import { changing } from '../../../../api/endpoint';

export const POST = changing(HouseStringsShape, (acting, body, { locals, params }) =>
  giveHouseStrings(locals.db, acting, { tag: params.tag ?? '', ...body }),
);
