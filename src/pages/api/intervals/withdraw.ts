import { WithdrawIntervalShape } from '../../../../contract/methods';
import { withdrawInterval } from '../../../../server/methods/intervals';
import { changing } from '../../../api/endpoint';

export const POST = changing(WithdrawIntervalShape, (acting, body, { locals }) =>
  withdrawInterval(locals.db, acting, body),
);
