import type { APIRoute } from 'astro';
import { backFromDistrict, districtSettings } from '../../../server/access/district';
import { endSession } from '../../../server/access/sessions';
import { UserError } from '../../../server/errors';
import { from, keepSession, whoAsks } from '../../api/access';
import { districtBack, takeLeaving } from '../../api/district';

/** Somebody comes back from the district's own sign-in. */
export const GET: APIRoute = async (context) => {
  const settings = districtSettings();
  if (!settings) return new Response(null, { status: 404 });
  const keep = takeLeaving(context);
  if (!keep) return context.redirect('/sign-in?district=refused');
  const { db } = context.locals;
  const at = new URL(districtBack(context));
  at.search = context.url.search;
  try {
    const before = await whoAsks(context);
    const begun = await backFromDistrict(db, settings, { at, keep }, await from(context));
    // Whatever session there was ends, so that none can be put upon them.
    if (before) await endSession(db, before.id);
    keepSession(context, begun.token, begun.until);
    return context.redirect(keep.next);
  } catch (error) {
    if (!(error instanceof UserError)) throw error;
    return context.redirect(`/sign-in?district=${error.type.replace('district-', '')}`);
  }
};
