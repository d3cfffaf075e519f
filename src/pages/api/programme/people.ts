import { PersonShape } from '../../../../contract/people';
import { addPerson } from '../../../../server/programme/manage';
import { changing } from '../../../api/endpoint';

export const POST = changing(PersonShape, (acting, body, { locals }) => addPerson(locals.db, acting, body));
