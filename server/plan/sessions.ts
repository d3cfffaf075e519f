import type { Knex } from 'knex';
import type { Aside } from '../../contract/plan';
import { addDays, type LocalDate } from '../../core/dates';
import { describeBuild } from '../../core/instruments/build';
import { isVisit, PLAN_KIND_WORDS, type PlanKind } from '../../core/planning/kinds';
import { shiftOf } from '../../core/planning/shifts';
import type { JobKind } from '../../core/procedures/types';
import { instantOf } from '../clock';
import { among } from '../db/among';
import type { Session, SessionJob } from './calendar';
import { latestPlan } from './plans';
import { PLAN_DAYS, SUPERVISION_SHARE } from './problem';
import { shiftsAhead } from './shifts';

/** Sessions of the plan in force: of a person wherever they are, or at a place whoever is there. */
export async function plannedSessions(
  db: Knex,
  of: { personId: number } | { placeId: number },
  p: { today: LocalDate; timeZone: string },
): Promise<Session[]> {
  const plan = await latestPlan(db);
  const places = new Map((await db('place')).map((x) => [x.id, x.name as string]));
  const people = new Map((await db('person')).map((x) => [x.id, x.name as string]));
  const shifts = await shiftsAhead(db, addDays(p.today, -7), PLAN_DAYS + 7);
  const about = new Map(
    (
      await db('instrument as i')
        .leftJoin('product as p', 'p.id', 'i.house_set_id')
        .whereIn('i.id', among(db, [...new Set((plan?.items ?? []).map((x) => x.instrumentId))]))
        .select('i.id', 'i.family', 'i.size', 'i.holder', 'p.name as set')
    ).map((r) => [
      r.id,
      { name: describeBuild(r.family, r.size), holder: r.holder as string, set: (r.set as string | null) ?? null },
    ]),
  );
  interface Gathered {
    startsAt: number;
    placeId: number;
    personId: number;
    work: string[];
    visits: string[];
    watched: string[];
    supervised: string[];
    minutes: number;
    jobs: SessionJob[];
  }
  const sessions = new Map<string, Gathered>();
  for (const i of plan?.items ?? []) {
    if (i.aside) continue;
    // Whoever stands beside to learn is there as well.
    const watches = 'personId' in of && i.learnerId === of.personId;
    const supervises = 'personId' in of && i.supervisorId === of.personId;
    if (!watches && !supervises && ('personId' in of ? i.personId !== of.personId : i.placeId !== of.placeId)) continue;
    const personId = (watches || supervises) && 'personId' in of ? of.personId : i.personId;
    const shift = shiftOf(shifts, { ...i, personId }) ?? shiftOf(shifts, i);
    const startsAt = shift?.startsAt ?? i.startsAt ?? instantOf(i.on, 9, p.timeZone);
    const key = `${personId}-${i.on}-${i.placeId}-${shift?.id.split('/')[0] ?? 'x'}`;
    const known: Gathered = sessions.get(key) ?? {
      startsAt,
      placeId: i.placeId,
      personId,
      work: [],
      visits: [],
      watched: [],
      supervised: [],
      minutes: 0,
      jobs: [],
    };
    const minutes = supervises ? Math.ceil(SUPERVISION_SHARE * i.minutes) : i.minutes;
    known.jobs.push({
      tag: i.tag,
      ...(about.get(i.instrumentId) ?? { name: '', holder: '', set: null }),
      says: `${watches ? 'watch: ' : supervises ? `supervise ${people.get(i.personId)}: ` : ''}${PLAN_KIND_WORDS[i.kind]}`,
      minutes,
      // A service and a change take a set; a visit and a look take none.
      strings: i.kind === 'change' || i.kind === 'service' ? (about.get(i.instrumentId)?.set ?? null) : null,
    });
    (watches ? known.watched : supervises ? known.supervised : isVisit(i.kind) ? known.visits : known.work).push(i.tag);
    known.minutes += minutes;
    sessions.set(key, known);
  }
  const some = (tags: readonly string[], one: string, many: string) =>
    tags.length === 0 ? [] : [`${one}: ${tags.length === 1 ? tags[0] : `${tags.length} ${many}`}`];
  return [...sessions].map(([key, s]) => {
    const who = 'personId' in of ? '' : ` with ${people.get(s.personId)}`;
    const says = [
      ...some(s.work, 'Strings', 'instruments'),
      ...some(s.visits, 'Follow-ups', 'instruments'),
      ...some(s.watched, 'Watch', 'instruments'),
      ...some(s.supervised, 'Supervise', 'instruments'),
    ];
    return {
      id: `arvick-${key}`,
      start: s.startsAt,
      minutes: Math.max(s.minutes, 15),
      summary: `${says.join('; ')}${who}`,
      place: places.get(s.placeId) ?? '',
      tags: [...s.work, ...s.visits, ...s.watched, ...s.supervised],
      person: people.get(s.personId) ?? '',
      jobs: s.jobs.map(({ tag, name, holder, says: what, minutes, strings }) => ({
        tag,
        name,
        holder,
        says: what,
        minutes,
        strings,
      })),
    };
  });
}

/** A session of today, as far as it is not done. */
export interface PlannedSession {
  person: string;
  personId: number;
  place: string;
  /** When its shift begins; null where the plan does not say. */
  startsAt: number | null;
  /** String changes, to be worked one after the other or together. */
  tags: string[];
  /** Other jobs to open at the bench, each by itself. */
  others: { tag: string; kind: JobKind; says: string }[];
  /** Visits, by what they are. */
  visits: { tag: string; says: string }[];
  learners: string[];
  /** Who is planned to stand by. */
  supervisors: string[];
  minutes: number;
  /** All of it, one by one, and what was set aside today. */
  jobs: { tag: string; kind: PlanKind; says: string }[];
  aside: { tag: string; kind: PlanKind; says: string; why: Aside['why']; by: string }[];
}

const BENCH_KIND: Partial<Record<PlanKind, JobKind>> = {
  service: 'yearly-service',
  refit: 'refit',
  inspection: 'inspection',
};

/** What the plan in force gives people at a place today, and one person wherever they are. */
export async function sessionsToday(
  db: Knex,
  p: { placeId: number; personId: number | null; today: LocalDate },
): Promise<PlannedSession[]> {
  const plan = await db('plan').orderBy('id', 'desc').first();
  if (!plan) return [];
  const items = await db('plan_job as i')
    .join('person as p', 'p.id', 'i.person_id')
    .join('place as l', 'l.id', 'i.place_id')
    .join('instrument as t', 't.id', 'i.instrument_id')
    .leftJoin('person as b', 'b.id', 'i.learner_id')
    .leftJoin('person as a', 'a.id', 'i.aside_by')
    .leftJoin('person as v', 'v.id', 'i.supervisor_id')
    // Gone since it was planned: nobody looks for it.
    .whereNull('t.retired_on')
    .where({ 'i.plan_id': plan.id, 'i.on_day': p.today })
    .where((q) =>
      q
        .where('i.place_id', p.placeId)
        .orWhere('i.person_id', p.personId ?? -1)
        .orWhere('i.learner_id', p.personId ?? -1)
        .orWhere('i.supervisor_id', p.personId ?? -1),
    )
    .orderBy(['i.person_id', 'i.starts_at', 'i.place_id', 't.tag'])
    .select(
      'i.*',
      'p.name',
      'l.name as place',
      't.tag',
      'b.name as learner',
      'a.name as asideBy',
      'v.name as supervisor',
    );
  const ids = items.map((i) => i.instrument_id);
  const open = new Set(
    (await db('follow_up').where({ status: 'open' }).whereIn('instrument_id', among(db, ids))).map(
      (f) => `${f.instrument_id}/${f.kind}`,
    ),
  );
  const recorded = new Set(
    (await db('standing_record').where({ on_day: p.today }).whereIn('instrument_id', among(db, ids))).map(
      (r) => `${r.instrument_id}/${r.kind}`,
    ),
  );
  const sessions = new Map<string, PlannedSession>();
  for (const i of items) {
    const kind = i.kind as PlanKind;
    const done = isVisit(kind)
      ? !open.has(`${i.instrument_id}/${kind}`)
      : recorded.has(`${i.instrument_id}/${kind === 'inspection' ? 'look' : 'change'}`);
    if (done) continue;
    const key = `${i.person_id}/${i.place_id}/${i.starts_at}`;
    const session: PlannedSession = sessions.get(key) ?? {
      person: i.name,
      personId: i.person_id,
      place: i.place,
      startsAt: i.starts_at,
      tags: [],
      others: [],
      visits: [],
      learners: [],
      supervisors: [],
      minutes: 0,
      jobs: [],
      aside: [],
    };
    const says = PLAN_KIND_WORDS[kind];
    if (i.aside) {
      session.aside.push({ tag: i.tag, kind, says, why: i.aside as Aside['why'], by: i.asideBy ?? '' });
      sessions.set(key, session);
      continue;
    }
    session.jobs.push({ tag: i.tag, kind, says });
    const other = BENCH_KIND[kind];
    if (isVisit(kind)) session.visits.push({ tag: i.tag, says: PLAN_KIND_WORDS[kind] });
    else if (other) session.others.push({ tag: i.tag, kind: other, says: PLAN_KIND_WORDS[kind] });
    else session.tags.push(i.tag);
    if (i.learner && !session.learners.includes(i.learner)) session.learners.push(i.learner);
    if (i.supervisor && !session.supervisors.includes(i.supervisor)) session.supervisors.push(i.supervisor);
    session.minutes += i.minutes;
    sessions.set(key, session);
  }
  return [...sessions.values()];
}
