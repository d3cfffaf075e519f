import { WrongShape } from '../../../contract/bench';
import { sayWrong } from '../../../server/faults/wrong';
import { changing } from '../../api/endpoint';

export const POST = changing(WrongShape, (acting, body, { locals }) => sayWrong(locals.db, acting, body));
