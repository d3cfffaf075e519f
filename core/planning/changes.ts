import { count, countWord, plural } from '../count';
import type { LocalDate } from '../dates';
import type { PlanKind } from './kinds';

/** A job where a plan puts it. */
export interface Placed {
  tag: string;
  kind: PlanKind;
  personId: number;
  placeId: number;
  on: LocalDate;
  /** Who stands beside to learn. */
  learnerId: number | null;
}

type Job = Pick<Placed, 'tag' | 'kind'>;

/** What is another for somebody at a place on a day. */
export interface SessionChange {
  on: LocalDate;
  placeId: number;
  /** Jobs there now. */
  jobs: number;
  /** New there, with where each was before; null: in no session. */
  added: (Job & { from: Placed | null })[];
  /** Not there any more, with where each is now; null: in no session. */
  gone: (Job & { to: Placed | null })[];
}

/** What a plan changes for one person. */
export interface PersonChange {
  personId: number;
  sessions: SessionChange[];
  /** What they newly stand beside to learn. */
  watches: Placed[];
}

const keyOf = (j: Job): string => `${j.tag}/${j.kind}`;
const sessionOf = (p: Placed): string => `${p.personId}/${p.on}/${p.placeId}`;
const isSame = (a: Placed | undefined, b: Placed): boolean => a !== undefined && sessionOf(a) === sessionOf(b);

/** What a plan changes for whom against the one before, by session: each job once. People without a change are left out. */
export function planChanges(before: readonly Placed[], after: readonly Placed[]): PersonChange[] {
  const was = new Map(before.map((p) => [keyOf(p), p]));
  const is = new Map(after.map((p) => [keyOf(p), p]));
  const people = new Map<number, { sessions: Map<string, SessionChange>; watches: Placed[] }>();
  const personOf = (id: number): { sessions: Map<string, SessionChange>; watches: Placed[] } => {
    const known = people.get(id) ?? { sessions: new Map(), watches: [] };
    people.set(id, known);
    return known;
  };
  const sessionAt = (p: Placed): SessionChange => {
    const { sessions } = personOf(p.personId);
    const known = sessions.get(sessionOf(p)) ?? { on: p.on, placeId: p.placeId, jobs: 0, added: [], gone: [] };
    sessions.set(sessionOf(p), known);
    return known;
  };
  for (const p of after) {
    const from = was.get(keyOf(p));
    if (!isSame(from, p)) sessionAt(p).added.push({ tag: p.tag, kind: p.kind, from: from ?? null });
    if (p.learnerId !== null && !(from?.learnerId === p.learnerId && from.on === p.on))
      personOf(p.learnerId).watches.push(p);
  }
  for (const p of before) {
    const to = is.get(keyOf(p));
    if (!isSame(to, p)) sessionAt(p).gone.push({ tag: p.tag, kind: p.kind, to: to ?? null });
  }
  for (const p of after) {
    const session = people.get(p.personId)?.sessions.get(sessionOf(p));
    if (session) session.jobs += 1;
  }
  return [...people]
    .map(([personId, { sessions, watches }]) => ({
      personId,
      sessions: [...sessions.values()].sort((a, b) => (a.on < b.on ? -1 : a.on > b.on ? 1 : a.placeId - b.placeId)),
      watches,
    }))
    .sort((a, b) => a.personId - b.personId);
}

/** How people, places, days and jobs are called. */
export interface ChangeNames {
  person: (id: number) => string;
  place: (id: number) => string;
  day: (on: LocalDate) => string;
  job: (job: Job) => string;
}

const MOST_NAMED = 8;

function listed(words: readonly string[]): string {
  if (words.length <= MOST_NAMED) return words.join(', ');
  return `${words.slice(0, MOST_NAMED).join(', ')} and ${words.length - MOST_NAMED} more`;
}

/**
 * A session's change in one sentence: "Mon 30 Nov at the Harbour Store, 7 jobs, two new: SK-0303, SK-0304 (was Tam
 * Reyl’s)". Who had it, or on which day, is told where it is another.
 */
export function sayChange(s: SessionChange, personId: number, names: ChangeNames): string {
  const where = `${names.day(s.on)} at ${names.place(s.placeId)}`;
  const apart = (j: Job, other: Placed | null, word: 'was' | 'now'): string => {
    if (!other) return names.job(j);
    const who = other.personId === personId ? '' : names.person(other.personId);
    const when = other.on === s.on ? '' : names.day(other.on);
    const says = [who && (word === 'was' ? `with ${who}` : who), when].filter(Boolean).join(', ');
    return says ? `${names.job(j)} (${word} ${says})` : names.job(j);
  };
  const added = s.added.map((j) => apart(j, j.from, 'was'));
  const gone = s.gone.map((j) => apart(j, j.to, 'now'));
  const parts = [where];
  if (s.jobs === 0) return `${where}: nothing left; was ${listed(gone)}`;
  parts.push(count(s.jobs, 'task'));
  const tells: string[] = [];
  if (added.length > 0)
    tells.push(
      `${added.length === s.jobs ? plural(s.jobs, 'new', 'all new') : `${countWord(added.length)} new`}: ${listed(added)}`,
    );
  if (gone.length > 0) tells.push(`removed: ${listed(gone)}`);
  return `${parts.join(', ')}, ${tells.join('; ')}`;
}
