import { TZDate } from '@date-fns/tz';
import ICAL from 'ical.js';
import ical from 'ical-generator';
import type { Knex } from 'knex';
import { addDays, type LocalDate } from '../../core/dates';
import { localDate } from '../clock';
import { type Acting, change } from '../db/change';
import { refused } from '../errors';
import { refreshInstrument } from '../fleet/state';
import { insertConcert, removeConcerts } from './concerts';

/** One time an event takes place. */
export interface Occurrence {
  uid: string;
  summary: string;
  /** Where the event says it is, and whatever else it says. */
  location: string;
  description: string;
  /** Instants in ms; of an all-day event local midnights. The end is not part of it. */
  start: number;
  end: number;
  allDay: boolean;
}

/** More than this of one event is a mistake in its rule. */
const MOST_OCCURRENCES = 2000;

const isZone = (name: string): boolean => {
  try {
    new Intl.DateTimeFormat('en', { timeZone: name });
    return true;
  } catch {
    return false;
  }
};

/**
 * Every time an event of a calendar file takes place within some days, in order: rules, extra dates, exceptions, single
 * occurrences that were changed, all-day events, time zones with their clock changes (RFC 5545).
 *
 * A local time that happens twice is the first of the two, and one that is skipped is read with the offset before the
 * gap (RFC 5545, 3.3.5). An all-day event without an end lasts one day.
 *
 * @param timeZone of events that name none
 * @throws UserError `not-a-calendar` with the reason
 */
export function occurrencesOf(text: string, p: { from: LocalDate; until: LocalDate; timeZone: string }): Occurrence[] {
  let root: InstanceType<typeof ICAL.Component>;
  try {
    root = new ICAL.Component(ICAL.parse(text));
  } catch (error) {
    throw refused(
      'not-a-calendar',
      'Not a calendar file',
      `Save it as .ics from your calendar program. It says: ${(error as Error).message}`,
    );
  }
  const components = root.name === 'vcalendar' ? [root] : root.getAllSubcomponents('vcalendar');
  const events = components.flatMap((c) => c.getAllSubcomponents('vevent'));
  if (components.length === 0) throw refused('not-a-calendar', 'Not a calendar file', 'There is no calendar in it.');
  for (const zone of components.flatMap((c) => c.getAllSubcomponents('vtimezone')))
    ICAL.TimezoneService.register(
      new ICAL.Timezone({ component: zone, tzid: String(zone.getFirstPropertyValue('tzid')) }),
    );

  /** The zone a component's times are written in, where the file does not describe it itself. */
  const zoneOf = (component: InstanceType<typeof ICAL.Component>): string => {
    const named = component.getFirstProperty('dtstart')?.getFirstParameter('tzid') ?? '';
    return named && isZone(named) ? named : p.timeZone;
  };
  const instant = (time: InstanceType<typeof ICAL.Time>, usual: string): number => {
    const { year, month, day, hour, minute, second } = time;
    if (time.zone === ICAL.Timezone.utcTimezone) return Date.UTC(year, month - 1, day, hour, minute, second);
    const named = time.zone?.tzid ?? '';
    // A zone the file describes itself under a name of its own.
    const own = named !== 'floating' && !isZone(named) && time.zone !== ICAL.Timezone.localTimezone;
    if (own) return time.toJSDate().getTime();
    const zone = isZone(named) && named !== 'floating' ? named : usual;
    return wallClock(zone, year, month, day, hour, minute, second);
  };
  const from = wallClock(p.timeZone, ...ymd(p.from), 0, 0, 0);
  const until = wallClock(p.timeZone, ...ymd(addDays(p.until, 1)), 0, 0, 0);

  const main = events.filter((e) => !e.hasProperty('recurrence-id'));
  const changed = events.filter((e) => e.hasProperty('recurrence-id'));
  const found: Occurrence[] = [];
  for (const component of main) {
    const uid = String(component.getFirstPropertyValue('uid') ?? '');
    const event = new ICAL.Event(component, {
      exceptions: changed.filter((e) => String(e.getFirstPropertyValue('uid') ?? '') === uid),
      strictExceptions: false,
    });
    if (!event.startDate) continue;
    const add = (
      item: InstanceType<typeof ICAL.Event>,
      startAt: InstanceType<typeof ICAL.Time>,
      endAt: InstanceType<typeof ICAL.Time> | null,
    ) => {
      const zone = zoneOf(item.component);
      const start = instant(startAt, zone);
      const end =
        endAt && endAt.compare(startAt) > 0 ? instant(endAt, zone) : startAt.isDate ? nextDay(startAt, zone) : start;
      if (start >= until || Math.max(end, start + 1) <= from) return;
      if (String(item.component.getFirstPropertyValue('status') ?? '') === 'CANCELLED') return;
      found.push({
        uid,
        summary: item.summary ?? '',
        location: item.location ?? '',
        description: item.description ?? '',
        start,
        end,
        allDay: startAt.isDate,
      });
    };
    const nextDay = (time: InstanceType<typeof ICAL.Time>, zone: string) => {
      const next = time.clone();
      next.adjust(1, 0, 0, 0);
      return instant(next, zone);
    };
    if (!event.isRecurring()) {
      add(event, event.startDate, event.endDate);
      continue;
    }
    const iterator = event.iterator();
    for (let n = 0; n < MOST_OCCURRENCES; n++) {
      const next = iterator.next();
      if (!next) break;
      const details = event.getOccurrenceDetails(next);
      add(details.item, details.startDate, details.endDate);
      if (instant(next, zoneOf(component)) >= until) break;
    }
  }
  return found.sort((a, b) => a.start - b.start || (a.uid < b.uid ? -1 : 1));
}

const ymd = (day: LocalDate): [number, number, number] => day.split('-').map(Number) as [number, number, number];

/** The instant of a wall clock: of two the first, of none the one with the offset before the gap. */
function wallClock(zone: string, y: number, mo: number, d: number, h: number, mi: number, s: number): number {
  const guess = Date.UTC(y, mo - 1, d, h, mi, s);
  // The offset of the day before is the one before any change on this day.
  const before = new TZDate(guess - 86_400_000, zone).getTimezoneOffset();
  const first = guess + before * 60_000;
  const after = new TZDate(first, zone).getTimezoneOffset();
  if (after === before) return first;
  const second = guess + after * 60_000;
  // With the later offset it reads as asked for unless the clock skips it.
  return new TZDate(second, zone).getTimezoneOffset() === after ? second : first;
}

/** What a calendar is about. */
export type CalendarAbout = 'loans' | 'lessons' | 'concerts' | 'holidays';

export interface CalendarDraft {
  /** When instruments that are named cannot be had; local times where an entry takes only part of a day. */
  busy: { tag: string; from: LocalDate; to: LocalDate; fromTime: string | null; toTime: string | null; why: string }[];
  concerts: { name: string; on: LocalDate; place: string | null; tags: string[] }[];
  holidays: { name: string; from: LocalDate; to: LocalDate; place: string | null }[];
  /** Events that name no instrument of the fleet. */
  unnamed: { summary: string; on: LocalDate }[];
}

/**
 * What a calendar says: loans and lessons of the instruments whose tags stand in its words, concerts with those who
 * play, holidays everywhere or at the place that is named.
 */
export async function draftCalendar(
  db: Knex,
  p: { text: string; about: CalendarAbout; today: LocalDate; timeZone: string; days: number },
): Promise<CalendarDraft> {
  const found = occurrencesOf(p.text, { from: p.today, until: addDays(p.today, p.days), timeZone: p.timeZone });
  const tags: string[] = await db('instrument').pluck('tag');
  const places: string[] = await db('place').pluck('name');
  const known = new Map(tags.map((t) => [t.toUpperCase(), t]));
  const draft: CalendarDraft = { busy: [], concerts: [], holidays: [], unnamed: [] };
  for (const o of found) {
    const says = `${o.summary} ${o.description} ${o.location}`;
    const words = says.toUpperCase().split(/[^A-Z0-9-]+/);
    const named = [...new Set(words.flatMap((w) => known.get(w) ?? []))];
    const place = places.find((name) => says.toLowerCase().includes(name.toLowerCase())) ?? null;
    const from = localDate(o.start, p.timeZone);
    const to = localDate(Math.max(o.start, o.end - 1), p.timeZone);
    if (p.about === 'holidays') draft.holidays.push({ name: o.summary || 'Holiday', from, to, place });
    else if (p.about === 'concerts')
      draft.concerts.push({ name: o.summary || 'Concert', on: from, place, tags: named });
    else if (named.length === 0) draft.unnamed.push({ summary: o.summary, on: from });
    const times = o.allDay
      ? { fromTime: null, toTime: null }
      : { fromTime: localTime(o.start, p.timeZone), toTime: localTime(o.end, p.timeZone) };
    if (p.about === 'loans' || p.about === 'lessons')
      for (const tag of named) draft.busy.push({ tag, from, to, ...times, why: o.summary });
  }
  return draft;
}

/** Local time of the day, as "09:30". */
const localTime = (at: number, zone: string): string => {
  const t = new TZDate(at, zone);
  return `${String(t.getHours()).padStart(2, '0')}:${String(t.getMinutes()).padStart(2, '0')}`;
};

/** Takes a calendar over in the place of what it said before; all of it or nothing. */
export async function importCalendar(
  db: Knex,
  acting: Acting,
  p: { text: string; source: string; about: CalendarAbout; today: LocalDate; timeZone: string; days: number },
): Promise<{ entries: number; instruments: number }> {
  return change(db, acting, 'calendar.import', { source: p.source, about: p.about, text: p.text }, async (trx) => {
    const draft = await draftCalendar(trx, p);
    const ids = new Map((await trx('instrument').select('id', 'tag')).map((i) => [i.tag as string, i.id as number]));
    const places = new Map((await trx('place').select('id', 'name')).map((x) => [x.name as string, x.id as number]));
    const kind = p.about === 'lessons' ? 'lesson' : 'loan';
    if (p.about === 'loans' || p.about === 'lessons')
      await trx('instrument_busy').where({ source: p.source, kind }).where('to_on', '>=', p.today).del();
    for (const b of draft.busy)
      await trx('instrument_busy').insert({
        instrument_id: ids.get(b.tag),
        from_on: b.from,
        to_on: b.to,
        from_time: b.fromTime,
        to_time: b.toTime,
        why: b.why.slice(0, 100),
        kind,
        source: p.source,
      });
    if (p.about === 'holidays') {
      await trx('holiday').where({ source: p.source }).where('to_on', '>=', p.today).del();
      for (const h of draft.holidays)
        await trx('holiday').insert({
          from_on: h.from,
          to_on: h.to,
          name: h.name.slice(0, 100),
          place_id: h.place ? (places.get(h.place) ?? null) : null,
          source: p.source,
        });
    }
    const touched = new Set<number>();
    if (p.about === 'concerts') {
      const old: number[] = await trx('concert').where({ source: p.source }).where('on_day', '>=', p.today).pluck('id');
      for (const id of await removeConcerts(trx, old)) touched.add(id);
      for (const c of draft.concerts) {
        const players = c.tags.flatMap((t) => ids.get(t) ?? []);
        await insertConcert(trx, {
          name: c.name.slice(0, 100),
          on: c.on,
          placeId: c.place ? (places.get(c.place) ?? null) : null,
          source: p.source,
          instrumentIds: players,
        });
        for (const id of players) touched.add(id);
      }
      for (const id of touched) await refreshInstrument(trx, id, { now: acting.now, timeZone: p.timeZone });
    }
    const named = new Set([...draft.busy.map((b) => b.tag), ...draft.concerts.flatMap((c) => c.tags)]);
    const entries = draft.busy.length + draft.concerts.length + draft.holidays.length;
    return {
      result: { entries, instruments: named.size },
      entity: 'calendar',
      entityId: 0,
      detail: { source: p.source, about: p.about, entries },
    };
  });
}

export interface Session {
  id: string;
  start: number;
  minutes: number;
  summary: string;
  place: string;
  tags: string[];
}

/** Sessions as a calendar that other programs read. */
export function feedOf(name: string, sessions: readonly Session[], stamp: number): string {
  const calendar = ical({ name, prodId: { company: 'Arvick', product: 'plan' } });
  for (const s of sessions)
    calendar.createEvent({
      id: s.id,
      start: new Date(s.start),
      end: new Date(s.start + s.minutes * 60_000),
      stamp: new Date(stamp),
      summary: s.summary,
      location: s.place,
      description: s.tags.join(', '),
    });
  return calendar.toString();
}
