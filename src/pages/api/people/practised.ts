import { PractisedShape } from '../../../../contract/people';
import { recordPractice } from '../../../../server/people/practice';
import { changing } from '../../../api/endpoint';

export const POST = changing(PractisedShape, (acting, body, { locals }) => recordPractice(locals.db, acting, body));
