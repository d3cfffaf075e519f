import { FaultShape } from '../../../../contract/bench';
import { recordFault } from '../../../../server/faults/cases';
import { changing } from '../../../api/endpoint';

export const POST = changing(FaultShape, (acting, body, { locals }) => recordFault(locals.db, acting, body));
