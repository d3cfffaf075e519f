import { z } from 'zod';
import { HouseShape } from '../../../../contract/methods';
import { FAMILIES } from '../../../../core/instruments/build';
import { notFound } from '../../../../server/errors';
import { saveHouse } from '../../../../server/methods/house';
import { changing } from '../../../api/endpoint';

const Shape = z.object({ expectedVersion: z.int(), house: HouseShape, why: z.string().max(300) });

export const POST = changing(Shape, (acting, body, { locals, params }) => {
  const family = FAMILIES.find((f) => f === params.family);
  if (!family) throw notFound('This family');
  return saveHouse(locals.db, acting, { family, ...body });
});
