import 'temporal-polyfill/global';
import ICAL from 'ical.js';
import { RRuleTemporal } from 'rrule-temporal';
import { Temporal } from 'temporal-polyfill';
import { addDays, isTimeZone, type LocalDate } from '../../core/dates';
import { refused } from '../errors';

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

/** What a calendar file says of some days, and what in it could not be read. */
export interface CalendarReading {
  occurrences: Occurrence[];
  /** Events left out, each with the reason. */
  leftOut: { summary: string; why: string }[];
  /** Something was left out that could be read in fewer days. */
  tooFar: boolean;
}

/** More entries than this of one file are a mistake in it, or too much for one go. */
const MOST_OCCURRENCES = 20_000;

const DAY_MS = 86_400_000;
/** Instants beyond these are years that no programme speaks of; they are brought to the edge. */
const EARLIEST = Date.UTC(1900, 0, 1);
const LATEST = Date.UTC(2199, 11, 31, 23, 59, 59);
const within = (at: number): number => Math.min(LATEST, Math.max(EARLIEST, at));

type Component = InstanceType<typeof ICAL.Component>;
type Time = InstanceType<typeof ICAL.Time>;

/** A wall clock as if it were UTC: rules are reckoned on it, and only what comes of them is put into a zone. */
const wallOf = (t: Time): number => {
  const at = new Date(0);
  at.setUTCFullYear(t.year, t.month - 1, t.day);
  at.setUTCHours(t.hour, t.minute, t.second);
  return at.getTime();
};

/** Puts a wall clock into a zone, and back. */
interface Zone {
  instant: (wall: number) => number;
  wall: (instant: number) => number;
}

const UTC: Zone = { instant: (wall) => wall, wall: (at) => at };

/**
 * A zone that the system knows. Of a local time that happens twice the first; one that is skipped is read with the
 * offset before the gap (RFC 5545, 3.3.5).
 */
function namedZone(name: string): Zone {
  return {
    instant: (wall) =>
      Temporal.Instant.fromEpochMilliseconds(wall)
        .toZonedDateTimeISO('UTC')
        .toPlainDateTime()
        .toZonedDateTime(name, { disambiguation: 'compatible' }).epochMilliseconds,
    wall: (at) =>
      Temporal.Instant.fromEpochMilliseconds(at).toZonedDateTimeISO(name).toPlainDateTime().toZonedDateTime('UTC')
        .epochMilliseconds,
  };
}

const WEEKDAYS = ['MO', 'TU', 'WE', 'TH', 'FR', 'SA', 'SU'];

/**
 * Whether a day is one of those that a yearly rule counts from the beginning or the end of the year, as the 53rd
 * Wednesday, which most years do not have (RFC 5545, 3.3.10, BYDAY). Rules that count nothing are true of every day.
 */
function isOrdinalDay(rule: string, day: Temporal.ZonedDateTime): boolean {
  const parts = new Map(
    rule
      .toUpperCase()
      .split(';')
      .map((part) => part.split('=') as [string, string]),
  );
  if (parts.get('FREQ') !== 'YEARLY' || parts.has('BYMONTH') || parts.has('BYWEEKNO')) return true;
  const days = (parts.get('BYDAY') ?? '').split(',').map((name) => /^([+-]?\d+)?([A-Z]{2})$/.exec(name));
  if (!days.some((found) => found?.[1])) return true;
  return days.some((found) => {
    if (found?.[2] !== WEEKDAYS[day.dayOfWeek - 1]) return false;
    const n = Number(found?.[1] ?? 0);
    const fromStart = Math.ceil(day.dayOfYear / 7);
    const fromEnd = Math.ceil((day.daysInYear - day.dayOfYear + 1) / 7);
    return n === 0 || (n > 0 ? fromStart === n : fromEnd === -n);
  });
}

/** A zone that the file describes itself, under a name that nobody else knows. */
function describedZone(zone: InstanceType<typeof ICAL.Timezone>): Zone {
  const offset = (wall: number): number => {
    const t = new Date(wall);
    const time = new ICAL.Time(
      {
        year: t.getUTCFullYear(),
        month: t.getUTCMonth() + 1,
        day: t.getUTCDate(),
        hour: t.getUTCHours(),
        minute: t.getUTCMinutes(),
        second: t.getUTCSeconds(),
        isDate: false,
      },
      zone,
    );
    return zone.utcOffset(time) * 1000;
  };
  return { instant: (wall) => wall - offset(wall), wall: (at) => at + offset(at + offset(at)) };
}

/**
 * A zone changes its clocks some times a year: one that says it does more often would be counted out without end.
 * @throws UserError `not-a-calendar`
 */
function requireYearlyRules(zone: Component): void {
  for (const part of zone.getAllSubcomponents())
    for (const rule of part.getAllProperties('rrule'))
      if (!/^FREQ=YEARLY\b/i.test(String(rule.getFirstValue())))
        throw refused(
          'not-a-calendar',
          'This calendar’s time zone cannot be read',
          `The time zone “${String(zone.getFirstPropertyValue('tzid')).slice(0, 60)}” in this file changes its clocks without end. Export the calendar in a usual time zone. Nothing was changed.`,
        );
}

/**
 * Every time an event of a calendar file takes place within some days, in order: rules however long ago they began,
 * extra dates, exceptions, single occurrences that were changed, all-day events, time zones with their clock changes
 * (RFC 5545).
 *
 * A span between two times is as long on every occurrence as on the first; one said as a duration has days by the
 * calendar and hours by the clock (3.3.6). An all-day event without an end lasts one day.
 *
 * @param timeZone of events that name none
 * @throws UserError `not-a-calendar` with the reason, `too-much` when it has too many entries in these days
 */
export function readCalendar(
  text: string,
  p: { from: LocalDate; until: LocalDate; timeZone: string },
): CalendarReading {
  let root: Component;
  try {
    root = new ICAL.Component(ICAL.parse(text));
  } catch (error) {
    throw refused(
      'not-a-calendar',
      'Not a calendar file',
      `This file could not be read as a calendar. Export it as .ics and choose it again. (${(error as Error).message.slice(0, 200)})`,
    );
  }
  const components = root.name === 'vcalendar' ? [root] : root.getAllSubcomponents('vcalendar');
  if (components.length === 0)
    throw refused(
      'not-a-calendar',
      'Not a calendar file',
      'There is no calendar in this file. Export it as .ics and choose it again.',
    );
  const events = components.flatMap((c) => c.getAllSubcomponents('vevent'));
  const described = new Map(
    components
      .flatMap((c) => c.getAllSubcomponents('vtimezone'))
      .map((zone) => {
        const tzid = String(zone.getFirstPropertyValue('tzid'));
        requireYearlyRules(zone);
        return [tzid, describedZone(new ICAL.Timezone({ component: zone, tzid }))] as const;
      }),
  );
  const zones = new Map<string, Zone>();
  const zoneNamed = (name: string): Zone => {
    const known =
      zones.get(name) ?? (isTimeZone(name) ? namedZone(name) : (described.get(name) ?? namedZone(p.timeZone)));
    zones.set(name, known);
    return known;
  };
  const usual = zoneNamed(p.timeZone);
  /** The zone that a property's times are written in. */
  const zoneOf = (property: InstanceType<typeof ICAL.Property>, time: Time): Zone =>
    time.zone === ICAL.Timezone.utcTimezone ? UTC : zoneNamed(String(property.getFirstParameter('tzid') ?? p.timeZone));
  const midnight = (day: LocalDate) => usual.instant(Date.parse(`${day}T00:00:00Z`));
  const window = { from: midnight(p.from), until: midnight(addDays(p.until, 1)) };

  const reading: CalendarReading = { occurrences: [], leftOut: [], tooFar: false };
  const keep = (o: Occurrence): void => {
    if (o.start >= window.until || Math.max(o.end, o.start + 1) <= window.from) return;
    if (reading.occurrences.length >= MOST_OCCURRENCES)
      throw refused(
        'too-much',
        'Too many entries',
        `The calendar has more than ${MOST_OCCURRENCES.toLocaleString('en')} entries in these days. Nothing was imported: split it, or look for an event that repeats too often.`,
      );
    reading.occurrences.push(o);
  };
  const changed = new Map<string, Component[]>();
  for (const e of events.filter((x) => x.hasProperty('recurrence-id'))) {
    const uid = uidOf(e);
    changed.set(uid, [...(changed.get(uid) ?? []), e]);
  }
  for (const component of events.filter((x) => !x.hasProperty('recurrence-id'))) {
    const summary = String(component.getFirstPropertyValue('summary') ?? '');
    try {
      for (const o of occurrencesOfEvent(component, changed.get(uidOf(component)) ?? [], { zoneOf, window })) keep(o);
    } catch (error) {
      if (!(error instanceof NotUnderstood)) throw error;
      reading.leftOut.push({ summary, why: error.message });
      reading.tooFar ||= error.tooFar;
    }
  }
  reading.occurrences.sort((a, b) => a.start - b.start || (a.uid < b.uid ? -1 : 1));
  return reading;
}

/** An event that is well-formed and cannot be taken over. */
class NotUnderstood extends Error {
  constructor(
    says: string,
    readonly tooFar = false,
  ) {
    super(says);
  }
}

const uidOf = (component: Component): string => String(component.getFirstPropertyValue('uid') ?? '');

interface Reader {
  zoneOf: (property: InstanceType<typeof ICAL.Property>, time: Time) => Zone;
  window: { from: number; until: number };
}

/** How long an event lasts: days by the calendar and the rest by the clock. */
interface Length {
  days: number;
  ms: number;
}

/** When an event begins by its own clock, how long it lasts, and what it says. */
interface Frame {
  wall: number;
  zone: Zone;
  allDay: boolean;
  length: Length;
  says: Pick<Occurrence, 'uid' | 'summary' | 'location' | 'description'>;
  cancelled: boolean;
}

function frameOf(component: Component, read: Reader): Frame {
  const begins = component.getFirstProperty('dtstart');
  const start = begins?.getFirstValue() as Time | undefined;
  if (!begins || !(start instanceof ICAL.Time)) throw new NotUnderstood('it has no start time');
  const zone = read.zoneOf(begins, start);
  const wall = wallOf(start);
  const text = (name: string) => String(component.getFirstPropertyValue(name) ?? '');
  const ends = component.getFirstProperty('dtend');
  const end = ends?.getFirstValue() as Time | undefined;
  const lasts = component.getFirstPropertyValue('duration');
  let length: Length = start.isDate ? { days: 1, ms: 0 } : { days: 0, ms: 0 };
  if (ends && end instanceof ICAL.Time) {
    const ms = read.zoneOf(ends, end).instant(wallOf(end)) - zone.instant(wall);
    // By the clock on the wall where a skipped hour puts the end before the beginning.
    const span = ms > 0 ? ms : wallOf(end) - wall;
    if (start.isDate) length = { days: Math.max(1, Math.round((wallOf(end) - wall) / DAY_MS)), ms: 0 };
    else if (span > 0) length = { days: 0, ms: span };
  } else if (lasts instanceof ICAL.Duration && !lasts.isNegative)
    length = {
      days: lasts.weeks * 7 + lasts.days,
      ms: ((lasts.hours * 60 + lasts.minutes) * 60 + lasts.seconds) * 1000,
    };
  return {
    wall,
    zone,
    allDay: start.isDate,
    length,
    says: {
      uid: uidOf(component),
      summary: text('summary'),
      location: text('location'),
      description: text('description'),
    },
    cancelled: text('status') === 'CANCELLED',
  };
}

/** An event as it takes place when it begins at a time of the wall clock. */
function placed(frame: Frame, wall: number): Occurrence {
  const begins = within(frame.zone.instant(within(wall)));
  const ends = within(frame.zone.instant(within(wall + frame.length.days * DAY_MS)) + frame.length.ms);
  return { ...frame.says, start: begins, end: Math.max(begins, ends), allDay: frame.allDay };
}

function* occurrencesOfEvent(component: Component, changes: readonly Component[], read: Reader): Generator<Occurrence> {
  const frame = frameOf(component, read);
  const overrides = new Map<number, Component>();
  const fromThenOn: { wall: number; component: Component }[] = [];
  for (const change of changes) {
    const property = change.getFirstProperty('recurrence-id');
    const time = property?.getFirstValue() as Time | undefined;
    if (!property || !time) continue;
    const wall = frame.zone.wall(read.zoneOf(property, time).instant(wallOf(time)));
    overrides.set(wall, change);
    if (property.getFirstParameter('range') === 'THISANDFUTURE') fromThenOn.push({ wall, component: change });
  }
  fromThenOn.sort((a, b) => b.wall - a.wall);
  const lengthMs = frame.length.days * DAY_MS + frame.length.ms;
  // Wall clocks differ from instants by a day at the most.
  const from = read.window.from - lengthMs - 2 * DAY_MS;
  const until = read.window.until + 2 * DAY_MS;
  for (const wall of wallsOf(component, frame, read, { from, until })) {
    const own = overrides.get(wall);
    const later = own ? undefined : fromThenOn.find((c) => c.wall <= wall);
    if (own) continue;
    if (later) {
      const moved = frameOf(later.component, read);
      if (!moved.cancelled) yield placed(moved, moved.wall + wall - later.wall);
    } else if (!frame.cancelled) yield placed(frame, wall);
  }
  // Changed ones take place when they say, wherever that is.
  for (const change of overrides.values()) {
    const own = frameOf(change, read);
    if (!own.cancelled) yield placed(own, own.wall);
  }
}

/** When an event begins by its own clock within some days: its rules, extra dates, without its exceptions. */
function wallsOf(component: Component, frame: Frame, read: Reader, days: { from: number; until: number }): number[] {
  const timesOf = (name: string): number[] =>
    component.getAllProperties(name).flatMap((property) =>
      property.getValues().map((value: unknown) => {
        const time = (value instanceof ICAL.Period ? value.start : value) as Time;
        return time.isDate ? wallOf(time) : frame.zone.wall(read.zoneOf(property, time).instant(wallOf(time)));
      }),
    );
  const rules = component.getAllProperties('rrule').map((property) => property.getFirstValue());
  const walls = new Set<number>(rules.length === 0 ? [frame.wall] : []);
  for (const rule of rules)
    for (const wall of byRule(rule as InstanceType<typeof ICAL.Recur>, frame, days)) walls.add(wall);
  for (const wall of timesOf('rdate')) walls.add(wall);
  const without = new Set(timesOf('exdate'));
  // An exception without a time takes its whole day.
  const wholeDays = new Set(
    component
      .getAllProperties('exdate')
      .flatMap((property) => property.getValues())
      .filter((time: unknown) => (time as Time).isDate)
      .map((time: unknown) => wallOf(time as Time)),
  );
  return [...walls]
    .filter((wall) => !without.has(wall) && !wholeDays.has(Math.floor(wall / DAY_MS) * DAY_MS))
    .filter((wall) => wall >= days.from && wall < days.until)
    .sort((a, b) => a - b);
}

/** Times of the wall clock that a rule gives within some days. @throws NotUnderstood */
function byRule(rule: InstanceType<typeof ICAL.Recur>, frame: Frame, days: { from: number; until: number }): number[] {
  if (rule.freq === 'SECONDLY' || rule.freq === 'MINUTELY')
    throw new NotUnderstood(`it repeats every ${rule.freq === 'SECONDLY' ? 'second' : 'minute'}`);
  const stamp = (wall: number) => new Date(wall).toISOString().replace(/[-:]|\.\d{3}/g, '');
  const until = rule.until as Time | null;
  const last = until
    ? until.isDate
      ? wallOf(until) + DAY_MS - 1000
      : until.zone === ICAL.Timezone.utcTimezone
        ? frame.zone.wall(wallOf(until))
        : wallOf(until)
    : null;
  const parts = rule
    .toString()
    .split(';')
    .filter((part) => !part.startsWith('UNTIL='));
  if (last !== null) parts.push(`UNTIL=${stamp(last)}`);
  try {
    const rrule = new RRuleTemporal({
      rruleString: `DTSTART:${stamp(frame.wall)}\nRRULE:${parts.join(';')}`,
      includeDtstart: false,
    });
    const at = (wall: number) => Temporal.Instant.fromEpochMilliseconds(within(wall)).toZonedDateTimeISO('UTC');
    return rrule
      .between(at(Math.max(days.from, frame.wall)), at(days.until), true)
      .filter((time) => isOrdinalDay(rule.toString(), time))
      .map((time) => time.epochMilliseconds);
  } catch {
    throw new NotUnderstood(`its repeat rule could not be read (${rule.toString().slice(0, 100)})`, true);
  }
}
