import { PlayerShape } from '../../../../../contract/people';
import { setPlayer } from '../../../../../server/fleet/exposure';
import { changing } from '../../../../api/endpoint';

export const POST = changing(PlayerShape, (acting, body, { locals, params }) =>
  setPlayer(locals.db, acting, { tag: params.tag ?? '', ...body }),
);
