import { z } from 'zod';
import { CLIMATES } from '../../../../../core/wear/exposure';
import { setClimate } from '../../../../../server/fleet/exposure';
import { changing, pathId } from '../../../../api/endpoint';

export const POST = changing(z.object({ climate: z.enum(CLIMATES) }), (acting, body, context) =>
  setClimate(context.locals.db, acting, { placeId: pathId(context), ...body }),
);
