import { isIP } from 'node:net';
import { hostname } from 'node:os';
import type { APIContext } from 'astro';
import { deviceOf } from '../../server/access/accounts';
import { allowLate } from '../../server/access/late';
import { newToken } from '../../server/access/secrets';
import { beginSession, type Session, sessionOf } from '../../server/access/sessions';

export const SESSION = 'arvick_session';
export const DEVICE = 'arvick_bench';
const YEAR_S = 365 * 24 * 3600;

/** Whether the browser came over TLS, to this process or to the proxy before it. */
export const isSecure = ({ request }: Pick<APIContext, 'request'>): boolean =>
  request.headers.get('x-forwarded-proto') === 'https';

/** The address that asks. Both headers are written by `keepTrusted` of server/edge.ts, whatever came in them. */
export const addressOf = ({ request }: Pick<APIContext, 'request'>): string =>
  request.headers.get('x-forwarded-for') ?? 'unknown';

/** From where a change comes, for the record of who did what: the address, and that it is a bench several share. */
export const placeOfRequest = (context: APIContext): string =>
  `${addressOf(context)}${context.locals.session?.deviceId ? `, bench ${context.locals.session.deviceId}` : ''}`;

/** Cookies that scripts do not see and other sites do not send along with a change. */
const cookie = (context: APIContext) =>
  ({ path: '/', httpOnly: true, sameSite: 'lax', secure: isSecure(context) }) as const;

export function keepSession(context: APIContext, token: string, until: number): void {
  // In seconds from now: the browser's clock may be another.
  const maxAge = Math.max(1, Math.round((until - context.locals.now) / 1000));
  context.cookies.set(SESSION, token, { ...cookie(context), maxAge });
}

export const dropSession = (context: APIContext): void => context.cookies.delete(SESSION, { path: '/' });

export const keepDevice = (context: APIContext, token: string): void =>
  context.cookies.set(DEVICE, token, { ...cookie(context), maxAge: YEAR_S });

/** Who asks, by the cookie; the cookie is renewed where its token was. */
export async function whoAsks(context: APIContext): Promise<Session | null> {
  const { db, now } = context.locals;
  const session = await sessionOf(db, context.cookies.get(SESSION)?.value, now);
  if (session?.token) keepSession(context, session.token, session.until);
  return session;
}

/** From where a session begins. */
export async function from(context: APIContext) {
  const device = await deviceOf(context.locals.db, context.cookies.get(DEVICE)?.value);
  return {
    now: context.locals.now,
    agent: context.request.headers.get('user-agent') ?? '',
    address: addressOf(context),
    deviceId: device?.id ?? null,
    browser: browserOf(context),
  };
}

/** Begins a session without a password, for whoever has just made the programme, or enters the demo. */
export async function enter(context: APIContext, personId: number): Promise<void> {
  const { db } = context.locals;
  const { token, until } = await beginSession(db, { personId, ...(await from(context)) });
  keepSession(context, token, until);
}

/**
 * The address under which other programs reach this programme: the one that is set, or else the one of this request,
 * whose name was checked.
 */
export const ownAddress = (request: Request, set: string): string =>
  set.replace(/\/+$/, '') ||
  `${isSecure({ request }) ? 'https' : 'http'}://${request.headers.get('host') ?? 'localhost'}`;

/** Names this browser for the server; no script reads it. */
export const BROWSER = 'arvick_browser';

/** The token that names this browser, made where it has none. */
function browserOf(context: APIContext): string {
  let token = context.cookies.get(BROWSER)?.value;
  if (!token || !/^[\w-]{43}$/.test(token)) {
    token = newToken();
    context.cookies.set(BROWSER, token, { ...cookie(context), maxAge: YEAR_S });
  }
  return token;
}

/** Lets this browser deliver later what whoever is signed in does on these jobs, should somebody else hold it by then. */
export async function deliverLater(context: APIContext, jobIds: readonly number[]): Promise<void> {
  const { db, person, session, now } = context.locals;
  const late = { browser: browserOf(context), personId: person.id, jobIds, deviceId: session.deviceId, now };
  // A page is read also where nothing can be written, as on a full disk: what is done then waits for its own person.
  await allowLate(db, late).catch(() => {});
}

/** Names under which this server answers, beside addresses in figures and the machine's own. */
const named = new Set(
  [
    'localhost',
    hostname().toLowerCase(),
    `${hostname().toLowerCase()}.local`,
    ...(process.env.ARVICK_HOSTS ?? '').toLowerCase().split(/[\s,]+/),
    (process.env.HOST ?? '').toLowerCase(),
  ].filter(Boolean),
);

/**
 * Whether a request is for this server: by a name it has, or by an address in figures. A page elsewhere can make its own
 * name lead here (DNS rebinding), but not one of these.
 */
export function isOurHost(host: string | null): boolean {
  if (!host) return false;
  const name = /^\[([^\]]+)\](?::\d+)?$/.exec(host)?.[1] ?? host.replace(/:\d+$/, '').toLowerCase();
  return isIP(name) !== 0 || named.has(name);
}

const SAFE = new Set(['GET', 'HEAD', 'OPTIONS']);

/**
 * Whether a change comes from a page of this server, or from no page at all: browsers name the origin of every request
 * that could change something, whatever it carries.
 */
export function isOurOrigin(request: Request): boolean {
  if (SAFE.has(request.method)) return true;
  const origin = request.headers.get('origin');
  const site = request.headers.get('sec-fetch-site');
  if (origin === null) return site === null || site === 'same-origin' || site === 'none';
  if (!URL.canParse(origin)) return false;
  return new URL(origin).host === request.headers.get('host');
}

/** What every answer tells a browser to keep to. */
export const HEADERS: Record<string, string> = {
  'x-content-type-options': 'nosniff',
  'x-frame-options': 'DENY',
  'referrer-policy': 'same-origin',
  'permissions-policy':
    'camera=(self), microphone=(self), geolocation=(), payment=(), usb=(), serial=(), bluetooth=(), display-capture=()',
  'cross-origin-opener-policy': 'same-origin',
  'cross-origin-resource-policy': 'same-origin',
};

/**
 * What a page may load and run: only what this server sends. Of scripts within a page only those of the build, by the
 * hashes that it brings; drawings set their own places by style attributes.
 *
 * @param built the policy that the build made for this page; null for what is no page
 */
export function contentPolicy(built: string | null): string {
  const scripts = /script-src ([^;]+)/.exec(built ?? '')?.[1]?.trim() ?? "'none'";
  return [
    "default-src 'self'",
    `script-src ${scripts}`,
    "style-src 'self' 'unsafe-inline'",
    "img-src 'self' data: blob:",
    "media-src 'self' blob:",
    "font-src 'self'",
    "connect-src 'self'",
    "worker-src 'self' blob:",
    "object-src 'none'",
    "base-uri 'none'",
    "form-action 'self'",
    "frame-ancestors 'none'",
  ].join('; ');
}
