import { recordFault } from '../../../../server/faults/cases';
import { changing } from '../../../api/endpoint';
import { FaultShape } from '../../../api/shapes';

export const POST = changing(FaultShape, (acting, body, { locals }) => recordFault(locals.db, acting, body));
