import { RetireShape } from '../../../../../../contract/people';
import { retirePerson } from '../../../../../../server/programme/manage';
import { changing, pathId } from '../../../../../api/endpoint';

export const POST = changing(RetireShape, (acting, body, context) =>
  retirePerson(context.locals.db, acting, { id: pathId(context), ...body }),
);
