import { RestoreShape } from '../../../../../contract/methods';
import { FAMILIES } from '../../../../../core/instruments/build';
import { notFound } from '../../../../../server/errors';
import { loadHouseVersion, saveHouse } from '../../../../../server/methods/houseMethods';
import { changing } from '../../../../api/endpoint';

export const POST = changing(RestoreShape, async (acting, body, { locals, params }) => {
  const family = FAMILIES.find((f) => f === params.family);
  if (!family) throw notFound('This family');
  const house = await loadHouseVersion(locals.db, family, body.version);
  return saveHouse(locals.db, acting, {
    family,
    expectedVersion: body.expectedVersion,
    house,
    why: `restored version ${body.version}`,
  });
});
