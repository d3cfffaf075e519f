import { DeskShape } from '../../../../contract/people';
import { moveDesk } from '../../../../server/people/people';
import { changing } from '../../../api/endpoint';

export const POST = changing(DeskShape, (acting, body, { locals }) => moveDesk(locals.db, acting, body));
