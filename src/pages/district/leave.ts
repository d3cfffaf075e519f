import type { APIRoute } from 'astro';
import { Next } from '../../../contract/access';
import { districtSettings, leaveForDistrict } from '../../../server/access/district';
import { UserError } from '../../../server/errors';
import { districtBack, keepLeaving } from '../../api/district';

/** Sends somebody to the district's own sign-in. */
export const GET: APIRoute = async (context) => {
  const settings = districtSettings();
  if (!settings) return new Response(null, { status: 404 });
  const next = Next.parse(context.url.searchParams.get('next') ?? '/');
  try {
    const { to, keep } = await leaveForDistrict(settings, districtBack(context), next);
    keepLeaving(context, keep);
    return context.redirect(to.href);
  } catch (error) {
    if (!(error instanceof UserError)) throw error;
    return context.redirect('/sign-in?district=silent');
  }
};
