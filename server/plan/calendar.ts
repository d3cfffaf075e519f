import { TZDate } from '@date-fns/tz';
import { rollup } from 'd3-array';
import ical from 'ical-generator';
import type { Knex } from 'knex';
import type { CalendarFile } from '../../contract/plan';
import { addDays, type LocalDate, withinRange } from '../../core/dates';
import { runInProcess } from '../apart';
import { localDate } from '../clock';
import { type Acting, answered, change } from '../db/change';
import { insertAll } from '../db/insertAll';
import { notFound, UserError } from '../errors';
import { refreshStates } from '../fleet/state';
import type { CalendarTask } from './calendar.worker';
import { insertConcert, removeConcerts } from './concerts';
import type { CalendarReading, Occurrence } from './ics';

/** What a calendar is about. */
export type CalendarAbout = CalendarFile['about'];

export interface CalendarDraft {
  /** When instruments that are named cannot be had; local times where an entry takes only part of a day. */
  busy: { tag: string; from: LocalDate; to: LocalDate; fromTime: string | null; toTime: string | null; why: string }[];
  concerts: { name: string; on: LocalDate; place: string | null; tags: string[] }[];
  holidays: { name: string; from: LocalDate; to: LocalDate; place: string | null }[];
  /** Events that name no instrument of the fleet. */
  unnamed: { summary: string; on: LocalDate }[];
  /** Events that could not be read, each with the reason. */
  leftOut: CalendarReading['leftOut'];
  /** Up to which day it was read. */
  until: LocalDate;
}

/** A calendar of some days from today, and what it is about. */
interface CalendarPart {
  text: string;
  about: CalendarAbout;
  today: LocalDate;
  timeZone: string;
}

/** So far ahead a calendar is taken over: three years, and less far where that is more than can be taken at once. */
const CALENDAR_DAYS = [3 * 365, 365, 84, 28] as const;

/** Seconds of reading after which a file is given up. */
const READING_SECONDS = 20;

/**
 * Reads a file in a thread of its own: a rule in it may take as long as it likes. As far ahead as it is not too much.
 * @throws UserError
 */
async function readApart(p: CalendarPart): Promise<CalendarReading & { until: LocalDate }> {
  let tooMuch: unknown;
  for (const days of CALENDAR_DAYS) {
    const until = addDays(p.today, days);
    try {
      const reading = await readUntil(p, until);
      if (!reading.tooFar || days === CALENDAR_DAYS.at(-1)) return { ...reading, until };
    } catch (error) {
      if (!(error instanceof UserError) || error.type !== 'too-much') throw error;
      tooMuch = error;
    }
  }
  throw tooMuch;
}

const readUntil = (p: CalendarPart, until: LocalDate): Promise<CalendarReading> =>
  runInProcess('calendar', { text: p.text, from: p.today, until, timeZone: p.timeZone } satisfies CalendarTask, {
    ms: READING_SECONDS * 1000,
    megabytes: 500,
    late: {
      title: 'The calendar took too long to read',
      detail: `The calendar could not be read within ${READING_SECONDS} seconds; nothing was imported. Export fewer events, or look for one that repeats too often.`,
    },
  });

/**
 * What a calendar says: loans and lessons of the instruments whose tags stand in its words, concerts with those who
 * play, holidays everywhere or at the place that is named.
 * @throws UserError when it is no calendar, or too much of one
 */
export async function draftCalendar(db: Knex, p: CalendarPart): Promise<CalendarDraft> {
  return draftOf(db, p, await readApart(p));
}

const escaped = (text: string): string => text.replace(/[.*+?^${}()|[\]\\/]/g, '\\$&');

async function draftOf(
  db: Knex,
  p: Omit<CalendarPart, 'text'>,
  reading: CalendarReading & { until: LocalDate },
): Promise<CalendarDraft> {
  const tags: string[] = await db('instrument').whereNull('retired_on').pluck('tag');
  const places: string[] = await db('place').pluck('name');
  const known = new Map(tags.map((t) => [t.toUpperCase(), t]));
  // Tags with blanks, slashes or other letters are no words by themselves.
  const odd = tags
    .filter((t) => !/^[A-Z0-9-]+$/.test(t.toUpperCase()))
    .map((tag) => ({
      tag,
      inText: new RegExp(`(?<![\\p{L}\\p{N}])${escaped(tag.toUpperCase())}(?![\\p{L}\\p{N}])`, 'u'),
    }));
  const draft: CalendarDraft = {
    busy: [],
    concerts: [],
    holidays: [],
    unnamed: [],
    leftOut: reading.leftOut,
    until: reading.until,
  };
  for (const o of reading.occurrences) {
    const says = `${o.summary} ${o.description} ${o.location}`;
    const upper = says.toUpperCase();
    const named = [
      ...new Set([
        ...upper.split(/[^A-Z0-9-]+/).flatMap((w) => known.get(w) ?? []),
        ...odd.filter((t) => t.inText.test(upper)).map((t) => t.tag),
      ]),
    ];
    const place = places.find((name) => says.toLowerCase().includes(name.toLowerCase())) ?? null;
    const from = withinRange(localDate(o.start, p.timeZone));
    const to = withinRange(localDate(Math.max(o.start, o.end - 1), p.timeZone));
    if (p.about === 'holidays') draft.holidays.push({ name: o.summary || 'Holiday', from, to, place });
    else if (p.about === 'concerts')
      draft.concerts.push({ name: o.summary || 'Concert', on: from, place, tags: named });
    else if (named.length === 0) draft.unnamed.push({ summary: o.summary, on: from });
    const times = o.allDay
      ? { fromTime: null, toTime: null }
      : { fromTime: localTime(o.start, p.timeZone), toTime: endTime(o, to, p.timeZone) };
    if (p.about === 'loans' || p.about === 'lessons')
      for (const tag of named) draft.busy.push({ tag, from, to, ...times, why: o.summary });
  }
  return draft;
}

/** Local time at which an event ends on its last day: what ends at midnight ends at 24:00 of the day before. */
const endTime = (o: Occurrence, lastDay: LocalDate, zone: string): string =>
  localDate(o.end, zone) > lastDay ? '24:00' : localTime(o.end, zone);

/** Local time of the day, as "09:30". */
const localTime = (at: number, zone: string): string => {
  const t = new TZDate(at, zone);
  return `${String(t.getHours()).padStart(2, '0')}:${String(t.getMinutes()).padStart(2, '0')}`;
};

/** Takes a calendar over in the place of what it said before; all of it or nothing. */
export async function importCalendar(
  db: Knex,
  acting: Acting,
  p: CalendarPart & { source: string },
): Promise<{ entries: number; instruments: number }> {
  const request = { source: p.source, about: p.about, text: p.text };
  const before = await answered<{ entries: number; instruments: number }>(db, acting, 'calendar.import', request);
  if (before) return before.result;
  // Read before anything is locked: that may take its time.
  const reading = await readApart(p);
  return change(db, acting, 'calendar.import', request, async (trx) => {
    const draft = await draftOf(trx, p, reading);
    const ids = new Map((await trx('instrument').select('id', 'tag')).map((i) => [i.tag as string, i.id as number]));
    const places = new Map((await trx('place').select('id', 'name')).map((x) => [x.name as string, x.id as number]));
    const kind = p.about === 'lessons' ? 'lesson' : 'loan';
    if (p.about === 'loans' || p.about === 'lessons')
      await trx('instrument_busy').where({ source: p.source, kind }).where('to_on', '>=', p.today).del();
    await insertAll(
      trx,
      'instrument_busy',
      draft.busy.map((b) => ({
        instrument_id: ids.get(b.tag),
        from_on: b.from,
        to_on: b.to,
        from_time: b.fromTime,
        to_time: b.toTime,
        why: b.why.slice(0, 100),
        kind,
        source: p.source,
      })),
    );
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
      await refreshStates(trx, [...touched], { now: acting.now, timeZone: p.timeZone });
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

/** The calendar files that something ahead was taken over from, with how much. */
export async function calendarFiles(db: Knex, today: LocalDate): Promise<{ source: string; entries: number }[]> {
  const found = new Map<string, number>();
  for (const [table, on] of [
    ['instrument_busy', 'to_on'],
    ['holiday', 'to_on'],
    ['concert', 'on_day'],
  ] as const)
    for (const r of (await db(table as 'holiday')
      .where(on, '>=', today)
      .whereNot('source', '')
      .groupBy('source')
      .select('source')
      .count({ n: '*' })) as unknown as { source: string | null; n: number }[])
      if (r.source) found.set(r.source, (found.get(r.source) ?? 0) + Number(r.n));
  return [...found].map(([source, entries]) => ({ source, entries })).sort((a, b) => (a.source < b.source ? -1 : 1));
}

/** Takes back what a calendar file said of the days ahead; what has passed stays. @throws UserError not-found */
export async function removeCalendar(
  db: Knex,
  acting: Acting,
  p: { source: string; today: LocalDate; timeZone: string },
): Promise<{ removed: number }> {
  return change(db, acting, 'calendar.remove', { source: p.source }, async (trx) => {
    const busy = await trx('instrument_busy').where({ source: p.source }).where('to_on', '>=', p.today).del();
    const holidays = await trx('holiday').where({ source: p.source }).where('to_on', '>=', p.today).del();
    const concerts: number[] = await trx('concert')
      .where({ source: p.source })
      .where('on_day', '>=', p.today)
      .pluck('id');
    const removed = busy + holidays + concerts.length;
    if (removed === 0) throw notFound(`An upcoming entry from ${p.source}`);
    const players = await removeConcerts(trx, concerts);
    await refreshStates(trx, [...new Set(players)], { now: acting.now, timeZone: p.timeZone });
    return { result: { removed }, entity: 'calendar', entityId: 0, detail: { source: p.source, removed } };
  });
}

export interface Session {
  id: string;
  start: number;
  minutes: number;
  summary: string;
  place: string;
  tags: string[];
  person: string;
  jobs: SessionJob[];
}

/** What is to be done on an instrument in a session. */
export interface SessionJob {
  tag: string;
  /** Its kind, "Violin, 3/4", and with whom it is. */
  name: string;
  holder: string;
  says: string;
  minutes: number;
  /** The usual set it is strung with; null where none goes on. */
  strings: string | null;
}

/** The sets that the jobs of a session take, most first: "Fulmar light 12–53 × 2". */
export function toBring(jobs: readonly SessionJob[]): string[] {
  const sets = rollup(
    jobs.filter((j) => j.strings !== null),
    (of) => of.length,
    (j) => j.strings as string,
  );
  return [...sets]
    .sort((a, b) => b[1] - a[1] || (a[0] < b[0] ? -1 : 1))
    .map(([set, n]) => `${set}${n > 1 ? ` × ${n}` : ''}`);
}

/** A session line by line: each instrument with what is done and how long, then what to bring. */
function describeSession(s: Session): string {
  const bring = toBring(s.jobs);
  return [
    ...s.jobs.map((j) => `${j.tag}, ${j.name}: ${j.says}, ${Math.round(j.minutes)} min`),
    ...(bring.length > 0 ? [`Bring: ${bring.join(', ')}`] : []),
  ].join('\n');
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
      description: describeSession(s),
    });
  return calendar.toString();
}
