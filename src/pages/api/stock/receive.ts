import { CountInShape } from '../../../../contract/stock';
import { receive } from '../../../../server/stock/moves';
import { changing } from '../../../api/endpoint';

export const POST = changing(CountInShape, (acting, { cents, ...body }, { locals }) =>
  receive(locals.db, acting, { ...body, unitCostCents: cents }),
);
