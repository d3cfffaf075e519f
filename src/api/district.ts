import type { APIContext } from 'astro';
import { LeavingShape } from '../../contract/access';
import type { Leaving } from '../../server/access/district';
import { isSecure, ownAddress } from './access';

const NAME = 'arvick_leaving';
/** Whoever takes longer to sign in begins anew. */
const LONGEST_S = 15 * 60;
const PATH = '/district';

/** Where the district sends people back to: by the programme's own address, or else by the one that was asked. */
export function districtBack(context: APIContext): string {
  const { programme } = context.locals;
  return `${ownAddress(context.request, programme.trust.address)}/district/back`;
}

/** Keeps what has to come back as it went, with the browser that left and for as long as it takes. */
export function keepLeaving(context: APIContext, keep: Leaving): void {
  const options = {
    path: PATH,
    httpOnly: true,
    sameSite: 'lax',
    secure: isSecure(context),
    maxAge: LONGEST_S,
  } as const;
  context.cookies.set(NAME, JSON.stringify(keep), options);
}

/** What was kept, once. */
export function takeLeaving(context: APIContext): Leaving | null {
  try {
    const kept = LeavingShape.safeParse(context.cookies.get(NAME)?.json());
    return kept.success ? kept.data : null;
  } catch {
    return null;
  } finally {
    context.cookies.delete(NAME, { path: PATH });
  }
}
