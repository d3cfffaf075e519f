import { ClimateShape } from '../../../../../contract/people';
import { setClimate } from '../../../../../server/fleet/exposure';
import { changing, pathId } from '../../../../api/endpoint';

export const POST = changing(ClimateShape, (acting, body, context) =>
  setClimate(context.locals.db, acting, { placeId: pathId(context), ...body }),
);
