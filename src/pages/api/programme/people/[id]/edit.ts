import { EditPersonShape } from '../../../../../../contract/people';
import { editPerson } from '../../../../../../server/programme/manage';
import { changing, pathId } from '../../../../../api/endpoint';

export const POST = changing(EditPersonShape, (acting, body, context) =>
  editPerson(context.locals.db, acting, { id: pathId(context), ...body }),
);
