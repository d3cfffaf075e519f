import { PastShape } from '../../../../contract/bench';
import { recordPast } from '../../../../server/bench/past';
import { changing } from '../../../api/endpoint';

export const POST = changing(PastShape, (acting, body, { locals }) => recordPast(locals.db, acting, body));
