import { SaveIntervalShape } from '../../../../contract/methods';
import { saveInterval } from '../../../../server/methods/intervals';
import { changing } from '../../../api/endpoint';

export const POST = changing(SaveIntervalShape, (acting, body, { locals }) => saveInterval(locals.db, acting, body));
