import { SaveHouseShape } from '../../../../contract/methods';
import { FAMILIES } from '../../../../core/instruments/build';
import { notFound } from '../../../../server/errors';
import { saveHouse } from '../../../../server/methods/houseMethods';
import { changing } from '../../../api/endpoint';

export const POST = changing(SaveHouseShape, (acting, body, { locals, params }) => {
  const family = FAMILIES.find((f) => f === params.family);
  if (!family) throw notFound('This family');
  return saveHouse(locals.db, acting, { family, ...body });
});
