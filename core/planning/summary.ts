import { count, plural } from '../count';
import { capital } from '../sentence';
import type { PlanKind } from './kinds';
import { isVisit } from './kinds';
import { type Plan, type PlanCost, type PlanProblem, usedMinutes } from './model';

/** A concert as a plan has to know it. */
export interface ConcertOfPlan {
  name: string;
  /** Day on which it is, from the first day looked at. */
  day: number;
  /** Instruments that play, by their ids. */
  instruments: readonly number[];
  /** Those among them that somebody qualified has to look at, whatever strings are on them. */
  referred: readonly number[];
}

/** What a plan comes to, in things that people count: instruments, days, hours. */
export interface PlanSummary {
  concerts: {
    name: string;
    day: number;
    instruments: number;
    /** Of which nothing more has to be done before, or it is planned in time. */
    ready: number;
    /** Jobs that keep an instrument from being ready for it: in no session, or too late. */
    waiting: number[];
    /** Instruments that somebody has to look at first: nobody knows what they need. */
    looks: number[];
    /** Instruments that wait for somebody qualified. */
    referred: number;
  }[];
  /** Jobs after their day. */
  late: { jobs: number; worstDays: number; overdue: number; days: number };
  /** Jobs in no session. */
  out: number[];
  /** Minutes of work in sessions, and minutes that people are there. */
  minutes: { used: number; there: number };
}

/**
 * What a plan comes to. Ready is said of an instrument only where everything on record for it is planned in time, and
 * where it is known what it needs.
 *
 * @param kinds what each job is
 */
export function planSummary(
  p: PlanProblem,
  plan: Plan,
  kinds: readonly PlanKind[],
  concerts: readonly ConcertOfPlan[],
): PlanSummary {
  const byInstrument = new Map<number, number[]>();
  p.jobs.forEach((j, i) => {
    const own = byInstrument.get(j.id);
    if (own) own.push(i);
    else byInstrument.set(j.id, [i]);
  });
  const dayOf = (i: number): number | null => p.shifts[plan[i] ?? -1]?.day ?? null;
  const late = { jobs: 0, worstDays: 0, overdue: 0, days: 0 };
  const out: number[] = [];
  p.jobs.forEach((j, i) => {
    const day = dayOf(i);
    if (day === null) {
      out.push(i);
      return;
    }
    if (day <= j.due) return;
    late.jobs += 1;
    late.days += day - j.due;
    late.worstDays = Math.max(late.worstDays, day - j.due);
    if (j.due < 0) late.overdue += 1;
  });
  return {
    concerts: concerts.map((c) => {
      const waiting: number[] = [];
      const looks: number[] = [];
      let ready = 0;
      const referred = new Set(c.referred);
      for (const id of c.instruments) {
        const own = (byInstrument.get(id) ?? []).filter((i) => !isVisit(kinds[i] ?? 'change'));
        const unknown = own.filter((i) => kinds[i] === 'inspection');
        // What has a last day before this concert, or is due by it, has to be done by then.
        const needed = own.filter((i) => {
          const j = p.jobs[i];
          return j && kinds[i] !== 'inspection' && (j.latest !== null ? j.latest <= c.day : j.due <= c.day);
        });
        const missing = needed.filter((i) => {
          const day = dayOf(i);
          return day === null || day > (p.jobs[i]?.latest ?? c.day);
        });
        waiting.push(...missing);
        looks.push(...unknown);
        if (missing.length === 0 && unknown.length === 0 && !referred.has(id)) ready += 1;
      }
      return {
        name: c.name,
        day: c.day,
        instruments: c.instruments.length,
        ready,
        waiting,
        looks,
        referred: referred.size,
      };
    }),
    late,
    out,
    minutes: {
      used: usedMinutes(p, plan).reduce((sum, m) => sum + m, 0),
      there: p.shifts.reduce((sum, s) => sum + s.minutes, 0),
    },
  };
}

const says = (n: number, one: string, many = `${one}s`): string => `${n} ${n === 1 ? one : many}`;

/** The first thing to know of a plan: whether everything is ready for what comes next, else how much is late and left out. */
export function sayPlan(s: PlanSummary, jobs: number): string {
  const next = s.concerts.find((c) => c.instruments > 0);
  if (next)
    return next.ready === next.instruments
      ? `All ${next.instruments} can be ready for the ${next.name}`
      : `${next.ready} of ${next.instruments} can be ready for the ${next.name}`;
  if (s.out.length > 0) return `${s.out.length} of ${jobs} not planned`;
  return s.late.jobs === 0 ? `All ${jobs} planned, all on time` : `All ${jobs} planned, ${s.late.jobs} late`;
}

/**
 * The same in one more sentence: what is left out, what is late and by how much, how much of people’s time is used.
 */
export function sayRest(s: PlanSummary, jobs: number): string {
  const { late, out, minutes } = s;
  const hours = (m: number) => (m / 60).toLocaleString('en', { maximumFractionDigits: m < 600 ? 1 : 0 });
  const parts = [
    out.length === 0 ? `all ${count(jobs, 'task')} planned` : `${out.length} of ${count(jobs, 'task')} not planned`,
    late.jobs === 0
      ? 'none late'
      : `${late.jobs} late, the worst by ${count(late.worstDays, 'day')}${late.overdue > 0 ? ` (${late.overdue === late.jobs ? 'all' : late.overdue} already overdue)` : ''}`,
    `${hours(minutes.used)} of ${hours(minutes.there)} hours used`,
  ];
  const text = parts.join(', ');
  return `${capital(text)}.`;
}

/** How good a plan is proven to be; a point is a day's lateness of an ordinary job. */
export function sayProof(cost: number, bound: number): string {
  const left = cost - bound;
  if (left <= 1e-6 * Math.max(1, cost)) return 'This is the best possible plan with your settings.';
  const days = Math.ceil(left - 1e-6);
  return `A better plan could save at most ${count(days, 'day')} of lateness in all.`;
}

/** What a change of plan costs or saves, each in its own unit; empty where it is the same. */
export function sayDifference(p: PlanProblem, before: PlanCost, after: PlanCost, out: number): string {
  const { weights } = p;
  const parts: string[] = [];
  const add = (n: number, one: string, many: string) => {
    const whole = Math.round(n);
    if (whole !== 0) parts.push(`${says(Math.abs(whole), one, many)} ${whole > 0 ? 'more' : 'fewer'}`);
  };
  add(out, 'unplanned task', 'unplanned tasks');
  add(after.tardiness - before.tardiness, 'day of lateness', 'days of lateness');
  if (weights.missedRetune > 0)
    add((after.missed - before.missed) / weights.missedRetune, 'missed follow-up', 'missed follow-ups');
  if (weights.setUp > 0) add((after.setUp - before.setUp) / weights.setUp, 'set-up', 'set-ups');
  if ((weights.travel ?? 0) > 0)
    add((60 * (after.travel - before.travel)) / (weights.travel as number), 'minute of travel', 'minutes of travel');
  if (weights.change > 0) add((after.changes - before.changes) / weights.change, 'moved task', 'moved tasks');
  return parts.join(', ');
}

/** What another plan brings, in instruments ready and jobs planned and in time; empty where it is the same in all of them. */
export function sayBetter(before: PlanSummary, after: PlanSummary): string[] {
  const lines: string[] = [];
  after.concerts.forEach((c, n) => {
    const was = before.concerts[n];
    if (was && was.ready !== c.ready)
      lines.push(`${c.ready} of ${c.instruments} can be ready for the ${c.name}, instead of ${was.ready}.`);
  });
  const parts: string[] = [];
  const add = (by: number, more: string, fewer: string, one: string, rest: string) => {
    const n = Math.abs(by);
    if (n !== 0) parts.push(`${n} ${by > 0 ? more : fewer}${plural(n, one)} ${rest}`);
  };
  add(before.out.length - after.out.length, 'more ', 'fewer ', 'task', 'planned');
  add(before.late.jobs - after.late.jobs, 'fewer ', 'more ', 'task', 'late');
  const days = before.late.days - after.late.days;
  add(days, '', '', 'day', `${days > 0 ? 'less' : 'more'} lateness in all`);
  if (parts.length > 0) lines.push(`${parts.join(', ')}.`);
  return lines;
}
