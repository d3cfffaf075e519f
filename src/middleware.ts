import { defineMiddleware } from 'astro:middleware';
import { addDays } from '../core/dates';
import { localDate, now } from '../server/clock';
import { database } from '../server/db/connection';
import { refreshAfterConcerts } from '../server/fleet/state';
import { loadPeople, loadPlaces, loadProgramme } from '../server/programme/programme';
import { problem } from './api/problem';

/** How far the horizon looks when nobody has set it and no concert is ahead. */
const HORIZON_DAYS = 28;

let lookedAtOn = '';

export const onRequest = defineMiddleware(async (context, next) => {
  const { pathname } = context.url;
  if (pathname.startsWith('/_astro/')) return next();
  const db = await database();
  const programme = await loadProgramme(db);
  context.locals.db = db;
  context.locals.now = now();
  if (!programme) {
    if (pathname === '/welcome' || pathname === '/api/welcome') return next();
    return pathname.startsWith('/api/')
      ? problem({
          type: 'no-programme',
          status: 409,
          title: 'No programme yet',
          detail: 'Open /welcome and start one first.',
        })
      : context.redirect('/welcome');
  }
  const people = await loadPeople(db);
  const wanted = Number(context.cookies.get('arvick_person')?.value);
  const person = people.find((p) => p.id === wanted) ?? people[0];
  if (!person) throw new Error('The programme has no people.');
  const today = localDate(context.locals.now, programme.timeZone);
  if (lookedAtOn !== today) {
    await refreshAfterConcerts(db, { now: context.locals.now, timeZone: programme.timeZone });
    lookedAtOn = today;
  }
  const concert = await db('concert').where('on_day', '>=', today).orderBy('on_day').first();
  const theme = context.cookies.get('arvick_theme')?.value;
  Object.assign(context.locals, {
    programme,
    people,
    person,
    places: await loadPlaces(db),
    today,
    horizon:
      person.horizonOn && person.horizonOn >= today
        ? person.horizonOn
        : (concert?.on_day ?? addDays(today, HORIZON_DAYS)),
    theme: theme === 'dusk' || theme === 'workshop' ? theme : null,
  });
  return next();
});
