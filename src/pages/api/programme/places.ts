import { PlaceShape } from '../../../../contract/people';
import { addPlace } from '../../../../server/programme/manage';
import { changing } from '../../../api/endpoint';

export const POST = changing(PlaceShape, (acting, body, { locals }) => addPlace(locals.db, acting, body));
