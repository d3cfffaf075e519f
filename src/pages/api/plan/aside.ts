import { AsideShape } from '../../../../contract/plan';
import { setAside } from '../../../../server/plan/aside';
import { changing } from '../../../api/endpoint';

export const POST = changing(AsideShape, (acting, body, { locals }) =>
  setAside(locals.db, acting, body, { today: locals.today }),
);
