import { addDays, daysBetween, earlier, LAST_DAY, type LocalDate, later } from '../dates';

/** The house rule for how long strings stay on. */
export interface CareRule {
  school: 'calendar' | 'use' | 'condition' | 'whichever-first';
  /** Days by the calendar school. */
  calendarDays: number;
  /** Hours of playing by the use school. */
  playHours: number;
  /** Never longer than this, whatever the school, in days. */
  neverOverDays: number;
}

/** A quick inspection and what it said of the strings. */
export interface Inspection {
  on: LocalDate;
  /** 100 new, 0 spent. */
  score: number;
  verdict: 'change' | 'soon' | 'good';
  because: string;
}

/** A stretch of time with a steady amount of playing. `toDay` is the first day it no longer holds; null: still holds. */
export interface UsePeriod {
  fromDay: LocalDate;
  toDay: LocalDate | null;
  hoursPerWeek: number;
}

/** Hours played from `from` up to, not including, `to`. */
export function playHours(periods: readonly UsePeriod[], from: LocalDate, to: LocalDate): number {
  let hours = 0;
  for (const p of periods) {
    const start = later(p.fromDay, from);
    const end = p.toDay === null ? to : earlier(p.toDay, to);
    if (end > start) hours += (daysBetween(start, end) / 7) * p.hoursPerWeek;
  }
  return hours;
}

/** A hundred years: use so slight that it is reached no sooner is as good as none. */
const FAR_AHEAD_DAYS = 36_525;

/** The day on which `hours` of playing since `from` are reached, or null when the known use never gets there. */
export function playHoursReachedOn(periods: readonly UsePeriod[], from: LocalDate, hours: number): LocalDate | null {
  let left = hours;
  const inOrder = [...periods].sort((a, b) => (a.fromDay < b.fromDay ? -1 : 1));
  for (const p of inOrder) {
    const start = later(p.fromDay, from);
    if (p.toDay !== null && p.toDay <= start) continue;
    const needed = p.hoursPerWeek > 0 ? (left / p.hoursPerWeek) * 7 : Number.POSITIVE_INFINITY;
    const has = p.toDay === null ? Number.POSITIVE_INFINITY : daysBetween(start, p.toDay);
    if (needed <= has)
      return Math.ceil(needed) <= Math.min(FAR_AHEAD_DAYS, daysBetween(start, LAST_DAY))
        ? addDays(start, Math.ceil(needed))
        : null;
    left -= (has / 7) * p.hoursPerWeek;
  }
  return null;
}

/** The string now at a position: when it went on, or what is wrong with it. */
export interface StringOn {
  number: number;
  /** null when its age is not known. */
  fittedOn: LocalDate | null;
  state: 'on' | 'broken' | 'missing';
}

/** A complaint about the sound or the state of the strings that nobody has answered yet. */
export interface OpenReport {
  on: LocalDate;
  kind: 'broken' | 'dull' | 'will-not-hold' | 'slack' | 'other';
  numbers: number[];
}

export interface Concert {
  name: string;
  on: LocalDate;
}

/** When an instrument's strings should be changed, with everything the reason needs. */
export interface Due {
  on: LocalDate;
  by: 'use' | 'calendar' | 'limit' | 'broken' | 'report' | 'condition' | 'unknown-age' | 'concert';
  /** Positions that make it due, highest number first. */
  numbers: number[];
  /** The oldest string's day; the count of hours and days starts there. */
  since: LocalDate | null;
  /** What each school alone would say. */
  calendarOn: LocalDate | null;
  useOn: LocalDate | null;
  limitOn: LocalDate | null;
  report: OpenReport | null;
  /** The inspection that decided. */
  inspection: Inspection | null;
  concert: (Concert & { settlingDays: number; wouldBeOn: LocalDate }) | null;
}

/**
 * How far past a concert a due date may lie and the change still be brought forward before it: strings in their last
 * three weeks would go dull on stage.
 */
const CONCERT_REACH_DAYS = 21;

/** After a look that said "soon" a change is due in two weeks; good strings are looked at again after three months. */
const SOON_DAYS = 14;
const LOOK_AGAIN_DAYS = 90;

/**
 * When the strings are due, whichever trigger comes first: a broken string or an open report, use, calendar, the
 * never-longer-than limit; brought forward when a concert would otherwise fall on strings at the end of their life.
 * Independent of today, so it changes only when its inputs do.
 */
export function dueOf(p: {
  strings: readonly StringOn[];
  rule: CareRule;
  use: readonly UsePeriod[];
  reports: readonly OpenReport[];
  concerts: readonly Concert[];
  /** The latest quick inspection, if there was one. It overrides the other schools while these strings are on. */
  inspection?: Inspection | null;
  settlingDays: number;
  /** Day from which an instrument of unknown age counts as due. */
  knownSince: LocalDate;
  /** The day that was set for a first look at strings of unknown age, where many came at once; else `knownSince`. */
  firstLookOn?: LocalDate | null;
}): Due {
  const { rule } = p;
  const numbers = p.strings.map((s) => s.number);
  const gone = p.strings.filter((s) => s.state !== 'on');
  const dated = p.strings.filter((s) => s.state === 'on' && s.fittedOn !== null);
  const undated = p.strings.filter((s) => s.state === 'on' && s.fittedOn === null);
  const since = dated.reduce<LocalDate | null>(
    (day, s) => (day && s.fittedOn && day < s.fittedOn ? day : s.fittedOn),
    null,
  );
  const schools = since
    ? {
        calendarOn: rule.school === 'use' || rule.school === 'condition' ? null : addDays(since, rule.calendarDays),
        useOn:
          rule.school === 'calendar' || rule.school === 'condition'
            ? null
            : playHoursReachedOn(p.use, since, rule.playHours),
        limitOn: addDays(since, rule.neverOverDays),
      }
    : { calendarOn: null, useOn: null, limitOn: null };
  const oldest = dated.filter((s) => s.fittedOn === since).map((s) => s.number);
  const base = { since, ...schools, report: null, inspection: null, concert: null };

  const report = [...p.reports].sort((a, b) => (a.on < b.on ? -1 : 1))[0];
  if (report && (report.kind === 'broken' || gone.length === 0)) {
    return {
      ...base,
      on: report.on,
      by: report.kind === 'broken' ? 'broken' : 'report',
      numbers: report.numbers,
      report,
    };
  }
  if (gone.length > 0) return { ...base, on: p.knownSince, by: 'broken', numbers: gone.map((s) => s.number) };
  if (since === null || undated.length > 0) {
    // A first look gives strings of unknown age a date all the same.
    const seen = p.inspection && p.inspection.on >= p.knownSince ? p.inspection : null;
    if (seen) {
      const days = { change: 0, soon: SOON_DAYS, good: LOOK_AGAIN_DAYS }[seen.verdict];
      return {
        ...base,
        on: addDays(seen.on, days),
        by: 'condition',
        numbers: undated.length ? undated.map((s) => s.number) : numbers,
        inspection: seen,
      };
    }
    // Whatever plays in a concert is looked at while its strings can still be changed for it.
    const concert = p.concerts.map((c) => addDays(c.on, -p.settlingDays)).sort()[0];
    const wanted = p.firstLookOn ?? p.knownSince;
    const firstLook = concert === undefined ? wanted : later(p.knownSince, earlier(wanted, concert));
    return {
      ...base,
      on: firstLook,
      by: 'unknown-age',
      numbers: undated.length ? undated.map((s) => s.number) : numbers,
    };
  }

  const { calendarOn, useOn, limitOn } = schools;
  let on = limitOn as LocalDate;
  let by: Due['by'] = 'limit';
  if (calendarOn !== null && calendarOn <= on) [on, by] = [calendarOn, 'calendar'];
  if (useOn !== null && useOn < on) [on, by] = [useOn, 'use'];
  // A look at strings that have been changed since says nothing about these.
  const look = p.inspection && p.inspection.on >= since ? p.inspection : null;
  if (look?.verdict === 'change') return { ...base, on: look.on, by: 'condition', numbers: oldest, inspection: look };
  const lookedOn =
    look?.verdict === 'soon'
      ? addDays(look.on, SOON_DAYS)
      : rule.school === 'condition'
        ? addDays(look?.on ?? since, LOOK_AGAIN_DAYS)
        : null;
  if (lookedOn !== null && lookedOn < on) [on, by] = [lookedOn, 'condition'];
  const inspection = by === 'condition' ? look : null;

  for (const concert of [...p.concerts].sort((a, b) => (a.on < b.on ? -1 : 1))) {
    const lastDay = addDays(concert.on, -p.settlingDays);
    // Strings younger than the settling time at the concert were changed for it already.
    if (on > lastDay && on <= addDays(concert.on, CONCERT_REACH_DAYS) && since < lastDay) {
      return {
        ...base,
        inspection,
        on: lastDay,
        by: 'concert',
        numbers: oldest,
        concert: { ...concert, settlingDays: p.settlingDays, wouldBeOn: on },
      };
    }
  }
  return { ...base, inspection, on, by, numbers: oldest };
}

/** Share of a string's life left on a day, 1 new to 0 due, by the calendar day on which it alone would be due. */
export function lifeLeft(fittedOn: LocalDate, endsOn: LocalDate, today: LocalDate): number {
  const whole = daysBetween(fittedOn, endsOn);
  if (whole <= 0) return 0;
  return Math.min(1, Math.max(0, daysBetween(today, endsOn) / whole));
}
