import type { Knex } from 'knex';
import { addDays, type LocalDate, sayDayOfWeek } from '../../core/dates';
import { sayInstant } from '../../core/instants';
import { isPlayable, sayReadiness } from '../../core/wear/readiness';
import { among } from '../db/among';
import { untilChanged } from '../db/memo';
import { type Word, wordsOfPerson } from '../faults/byLabel';
import { readinessOfMany } from '../fleet/readiness';
import { lessonsOf } from '../plan/classes';

/** Lessons so many days ahead are prepared for now. */
const DAYS_AHEAD = 7;
/** What somebody said is told so long. */
const WORDS_DAYS = 60;
const MOST_LISTED = 60;
const MINUTE_MS = 60_000;

/** An instrument that cannot be played yet, and why. */
export interface NotReady {
  tag: string;
  says: string;
  /** It can be played, and goes flat until it has settled. */
  settling: boolean;
}

export interface TeacherDay {
  /** Classes at the place within a week, the next first. */
  lessons: { name: string; on: LocalDate; from: string; to: string; instruments: number; notReady: NotReady[] }[];
  /** Of all instruments of the place. */
  instruments: number;
  notReady: NotReady[];
  words: Word[];
}

/** What a teacher asks in the morning: can what is played here be played, and what became of what I said? */
export async function teacherDay(
  db: Knex,
  person: { id: number; placeId: number },
  at: { today: LocalDate; now: number; timeZone: string },
): Promise<TeacherDay> {
  const key = `${at.today}/${Math.floor(at.now / MINUTE_MS)}`;
  // The same for everybody at a place: asked once until something is changed.
  const shared = await untilChanged(db, `teacher/${person.placeId}`, key, () => placeDay(db, person.placeId, at));
  return { ...shared, words: await wordsOfPerson(db, person.id, addDays(at.today, -WORDS_DAYS)) };
}

async function placeDay(
  db: Knex,
  placeId: number,
  at: { today: LocalDate; now: number; timeZone: string },
): Promise<Omit<TeacherDay, 'words'>> {
  const [counted] = await db('instrument_state').where({ place_id: placeId }).count({ n: '*' });
  const here = await suspects(db, placeId, at.now);
  const classes: number[] = await db('class')
    .where((q) => q.where({ place_id: placeId }).orWhereNull('place_id'))
    .where('to_on', '>=', at.today)
    .pluck('id');
  const inClass: { class_id: number; id: number; tag: string }[] = await db('class_instrument as x')
    .join('instrument as i', 'i.id', 'x.instrument_id')
    .whereIn('x.class_id', among(db, classes))
    .whereNull('i.retired_on')
    .orderBy('i.tag')
    .select('x.class_id', 'i.id', 'i.tag');
  const all = new Map([...here, ...inClass].map((i) => [i.id, i.tag]));
  const readiness = await readinessOfMany(db, [...all.keys()], at);
  const notReady = (ids: Iterable<number>): NotReady[] =>
    [...new Set(ids)].flatMap((id) => {
      const r = readiness.get(id);
      if (!r || isPlayable(r)) return [];
      return [
        {
          tag: all.get(id) ?? '',
          says: sayReadiness(r, (i) => sayInstant(i, at.now, at.timeZone)),
          settling: r.state === 'settling',
        },
      ];
    });
  const until = addDays(at.today, DAYS_AHEAD);
  const held = await lessonsOf(db, [...new Set(inClass.map((x) => x.id))], { from: at.today, until });
  const byLesson = new Map<string, { name: string; on: LocalDate; from: string; to: string; ids: number[] }>();
  for (const [id, lessons] of held)
    for (const l of lessons) {
      if (!l.fromTime || !l.toTime) continue;
      const key = `${l.from} ${l.fromTime} ${l.why}`;
      const lesson = byLesson.get(key) ?? { name: l.why, on: l.from, from: l.fromTime, to: l.toTime, ids: [] };
      lesson.ids.push(id);
      byLesson.set(key, lesson);
    }
  return {
    lessons: [...byLesson.entries()]
      .sort(([a], [b]) => (a < b ? -1 : 1))
      .map(([, { ids, ...lesson }]) => ({ ...lesson, instruments: ids.length, notReady: notReady(ids) })),
    instruments: Number(counted?.n ?? 0),
    notReady: notReady(here.map((i) => i.id)).slice(0, MOST_LISTED),
  };
}

/** A string that slips shows within so long after a visit. */
const READINGS_MS = 90 * 86_400_000;

/** Instruments of a place of which something on record could keep a player from them; the others are asked nothing more. */
async function suspects(db: Knex, placeId: number, now: number): Promise<{ id: number; tag: string }[]> {
  return db('instrument_state as s')
    .where('s.place_id', placeId)
    .where((q) =>
      q
        .where('s.broken', true)
        .orWhere('s.ready_at', '>', now)
        // Few anywhere: each is asked for once, not once for each instrument.
        .orWhereIn('s.instrument_id', db('report').whereNull('closed_by_record_id').select('instrument_id'))
        .orWhereIn('s.instrument_id', db('fault_case').where('status', 'open').select('instrument_id'))
        .orWhereIn('s.instrument_id', db('job').where('status', 'open').select('instrument_id'))
        .orWhereIn(
          's.instrument_id',
          db('retune_reading')
            .where('at', '>', now - READINGS_MS)
            .select('instrument_id'),
        ),
    )
    .orderBy('s.tag')
    .select('s.instrument_id as id', 's.tag');
}

/** The first thing to know, in one sentence. */
export function sayTeacherDay(t: TeacherDay, today: LocalDate): string {
  const next = t.lessons[0];
  if (!next)
    return t.notReady.length === 0
      ? 'Everything here can be played'
      : `${t.notReady.length} of ${t.instruments} here cannot be played yet`;
  const when = next.on === today ? 'today' : sayDayOfWeek(next.on);
  const ready = next.instruments - next.notReady.length;
  return ready === next.instruments
    ? `${next.name}, ${when} at ${next.from}: all ${next.instruments} can be played`
    : `${next.name}, ${when} at ${next.from}: ${ready} of ${next.instruments} can be played`;
}
