import { HorizonShape } from '../../../../contract/people';
import { setHorizon } from '../../../../server/people/people';
import { changing } from '../../../api/endpoint';

export const POST = changing(HorizonShape, (acting, body, { locals }) => setHorizon(locals.db, acting, body));
