import { LeadShape } from '../../../../contract/people';
import { setLead } from '../../../../server/people/people';
import { changing } from '../../../api/endpoint';

export const POST = changing(LeadShape, (acting, body, { locals }) => setLead(locals.db, acting, body));
