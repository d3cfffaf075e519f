import { z } from 'zod';
import { PLAYERS } from '../../../../../core/wear/exposure';
import { setPlayer } from '../../../../../server/fleet/exposure';
import { changing } from '../../../../api/endpoint';

export const POST = changing(z.object({ player: z.enum(PLAYERS) }), (acting, body, { locals, params }) =>
  setPlayer(locals.db, acting, { tag: params.tag ?? '', ...body }),
);
