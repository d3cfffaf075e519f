import { defineMiddleware } from 'astro:middleware';
import { randomBytes } from 'node:crypto';
import { mayOpen, ROUTES } from '../contract/permissions';
import { writeIn } from '../core/manner';
import { localDate, now } from '../server/clock';
import { inRequest, requestNow } from '../server/context';
import { database } from '../server/db/connection';
import { refreshAfterConcerts } from '../server/fleet/state';
import { log } from '../server/log';
import { countAnswer } from '../server/metrics';
import { horizonOf } from '../server/people/people';
import { loadPerson, loadProgramme } from '../server/programme/programme';
import { contentPolicy, HEADERS, isOurHost, isOurOrigin, isSecure, whoAsks } from './api/access';
import { problem } from './api/problem';

let lookedAtOn = '';

const FIRST_RUN = ['/alive', '/health', '/metrics', '/welcome', '/api/welcome', '/api/welcome/bring'];

export const onRequest = defineMiddleware(async (context, next) => {
  const request = randomBytes(6).toString('base64url');
  const began = performance.now();
  context.locals.request = request;
  const asked = { request };
  const answer = await inRequest(asked, () =>
    answerTo(context, next).catch((error: unknown) => {
      log.error({ err: error, route: context.routePattern }, 'A page could not be rendered');
      throw error;
    }),
  );
  const said = {
    route: context.routePattern,
    method: context.request.method,
    status: answer.status,
    seconds: (performance.now() - began) / 1000,
  };
  countAnswer(said);
  log.debug({ ...said, ...asked, person: context.locals.person?.id }, 'Answered');
  answer.headers.set('x-request-id', request);
  for (const [name, value] of Object.entries(HEADERS)) if (!answer.headers.has(name)) answer.headers.set(name, value);
  answer.headers.set('content-security-policy', contentPolicy(answer.headers.get('content-security-policy')));
  if (isSecure(context)) answer.headers.set('strict-transport-security', 'max-age=31536000');
  // What is somebody's is kept by nobody on the way. A page of the bench is kept by its own keeper alone.
  if (context.locals.person && !answer.headers.has('cache-control')) answer.headers.set('cache-control', 'no-store');
  return answer;
});

async function answerTo(
  context: Parameters<typeof onRequest>[0],
  next: Parameters<typeof onRequest>[1],
): Promise<Response> {
  const { pathname } = context.url;
  const api = pathname.startsWith('/api/');
  if (!isOurHost(context.request.headers.get('host')))
    return new Response(
      'This server does not answer to that name. Whoever runs it can add the name to ARVICK_HOSTS.\n',
      { status: 421, headers: { 'content-type': 'text/plain; charset=utf-8' } },
    );
  if (!isOurOrigin(context.request))
    return problem({
      type: 'other-site',
      status: 403,
      title: 'Request from another site',
      detail: 'Changes can only be made from a page of this programme. Nothing was changed.',
    });
  if (pathname.startsWith('/_astro/')) return next();
  const route = context.routePattern;
  // What the table does not know is there for nobody: not what a library brings along, nor a page that was forgotten.
  if (!(route in ROUTES)) return new Response(null, { status: 404 });

  const db = await database();
  const programme = await loadProgramme(db);
  context.locals.db = db;
  context.locals.now = now();
  if (!programme) {
    if (FIRST_RUN.includes(pathname)) return next();
    return api
      ? problem({
          type: 'no-programme',
          status: 409,
          title: 'No programme yet',
          detail: 'Open /welcome and start one first.',
        })
      : context.redirect('/welcome');
  }
  writeIn(programme.manner);
  const today = localDate(context.locals.now, programme.timeZone);
  const theme = context.cookies.get('arvick_theme')?.value;
  Object.assign(context.locals, {
    programme,
    today,
    theme: theme === 'dusk' || theme === 'workshop' ? theme : null,
  });
  const session = await whoAsks(context);
  if (session) {
    const person = await loadPerson(db, session.personId);
    Object.assign(context.locals, { session, person, horizon: await horizonOf(db, person, today) });
    const known = requestNow();
    if (known) known.person = person.id;
  }
  if (!mayOpen(session?.role ?? null, route)) {
    if (session)
      return api
        ? problem({
            type: 'not-yours',
            status: 403,
            title: 'Not allowed for your role',
            detail: 'Your role cannot do this. Ask a technician or a coordinator. Nothing was changed.',
          })
        : context.rewrite('/not-yours');
    return api
      ? problem({
          type: 'signed-out',
          status: 401,
          title: 'You are signed out',
          detail: 'Sign in, then try again. What you entered is still here.',
        })
      : context.redirect(
          `/sign-in${pathname === '/' ? '' : `?next=${encodeURIComponent(pathname + context.url.search)}`}`,
        );
  }
  if (lookedAtOn !== today) {
    await refreshAfterConcerts(db, { now: context.locals.now, timeZone: programme.timeZone });
    lookedAtOn = today;
  }
  return next();
}
