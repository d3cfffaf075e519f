import { count } from '../count';
import { type LocalDate, sayWeekday } from '../dates';
import { PLAN_KIND_WORDS } from '../planning/kinds';
import type { JobKind } from '../procedures/types';
import type { Due } from '../wear/due';
import type { WorkItem } from './items';

const SHORT_JOB: Partial<Record<JobKind, string>> = {
  'full-set': 'full set',
  'yearly-service': 'yearly service',
  'one-string': 'one string',
  refit: 'strings off and back on',
};

/** What a job is, such as "full set" or "retune, day 1"; a change by what its card makes of it. */
export function sayWhat(item: Pick<WorkItem, 'kind' | 'visitDay'>, card: JobKind | null): string {
  if (item.kind === 'change') return SHORT_JOB[card ?? 'full-set'] ?? 'part of a set';
  if (item.kind === 'retune' && item.visitDay !== null) return `retune, day ${item.visitDay}`;
  return PLAN_KIND_WORDS[item.kind];
}

const BECAUSE: Record<Due['by'], string> = {
  use: 'hours played',
  calendar: 'interval is up',
  limit: 'on longer than the limit',
  broken: 'a string broke',
  report: 'reported',
  condition: 'looked worn',
  'unknown-age': 'age unknown',
  concert: 'before a concert',
};

/** Why it is due, in a few words. */
export function sayBecause(item: Pick<WorkItem, 'kind' | 'because'>): string {
  if (typeof item.because === 'object') return item.because.asked;
  if (item.because === 'visit') return 'after a string change';
  if (item.because === 'condition' && item.kind === 'inspection') return 'inspection due';
  return BECAUSE[item.because];
}

/** Why a day is the last one: what comes, and how long new strings settle before it. */
export function sayWall(event: { on: LocalDate; concert: string | null }, settle: number): string {
  const what = event.concert
    ? `${event.concert} is on ${sayWeekday(event.on)}`
    : `it is needed for a lesson on ${sayWeekday(event.on)}`;
  return `${what}, and its strings need ${count(settle, 'day')} to settle`;
}
