import { ManyShape } from '../../../../contract/fleet';
import { changeMany } from '../../../../server/fleet/many';
import { changing } from '../../../api/endpoint';

export const POST = changing(ManyShape, (acting, body, { locals }) => changeMany(locals.db, acting, body));
