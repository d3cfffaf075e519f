import { defineMiddleware } from 'astro:middleware';
import { writeIn } from '../core/manner';
import { localDate, now } from '../server/clock';
import { database } from '../server/db/connection';
import { refreshAfterConcerts } from '../server/fleet/state';
import { horizonOf } from '../server/people/people';
import { loadPerson, loadProgramme } from '../server/programme/programme';
import { problem } from './api/problem';

let lookedAtOn = '';

export const onRequest = defineMiddleware(async (context, next) => {
  const { pathname } = context.url;
  if (pathname.startsWith('/_astro/')) return next();
  const db = await database();
  const programme = await loadProgramme(db);
  context.locals.db = db;
  context.locals.now = now();
  if (!programme) {
    if (['/welcome', '/api/welcome', '/api/welcome/bring'].includes(pathname)) return next();
    return pathname.startsWith('/api/')
      ? problem({
          type: 'no-programme',
          status: 409,
          title: 'No programme yet',
          detail: 'Open /welcome and start one first.',
        })
      : context.redirect('/welcome');
  }
  writeIn(programme.manner);
  const person = await loadPerson(db, Number(context.cookies.get('arvick_person')?.value) || null);
  const today = localDate(context.locals.now, programme.timeZone);
  if (lookedAtOn !== today) {
    await refreshAfterConcerts(db, { now: context.locals.now, timeZone: programme.timeZone });
    lookedAtOn = today;
  }
  const theme = context.cookies.get('arvick_theme')?.value;
  Object.assign(context.locals, {
    programme,
    person,
    today,
    horizon: await horizonOf(db, person, today),
    theme: theme === 'dusk' || theme === 'workshop' ? theme : null,
  });
  return next();
});
