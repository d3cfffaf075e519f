import { AsUsualShape } from '../../../../contract/bench';
import { doneAsUsual } from '../../../../server/bench/asUsual';
import { changing } from '../../../api/endpoint';

export const POST = changing(AsUsualShape, (acting, body, { locals }) => doneAsUsual(locals.db, acting, body));
