import { z } from 'zod';
import { num } from '../../../../../contract/basics';
import { FAMILIES } from '../../../../../core/instruments/build';
import { notFound } from '../../../../../server/errors';
import { loadHouseVersion, saveHouse } from '../../../../../server/methods/houseMethods';
import { changing } from '../../../../api/endpoint';

const Shape = z.object({ expectedVersion: num(z.int()), version: num(z.int()) });

export const POST = changing(Shape, async (acting, body, { locals, params }) => {
  const family = FAMILIES.find((f) => f === params.family);
  if (!family) throw notFound('This family');
  const house = await loadHouseVersion(locals.db, family, body.version);
  return saveHouse(locals.db, acting, {
    family,
    expectedVersion: body.expectedVersion,
    house,
    why: `back to version ${body.version}`,
  });
});
