import { UndoManyShape } from '../../../../contract/fleet';
import { undoMany } from '../../../../server/fleet/many';
import { changing } from '../../../api/endpoint';

export const POST = changing(UndoManyShape, (acting, body, { locals }) => undoMany(locals.db, acting, body));
