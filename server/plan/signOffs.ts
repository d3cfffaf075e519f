import type { Knex } from 'knex';
import { addDays, type LocalDate } from '../../core/dates';
import type { Family } from '../../core/instruments/build';
import { LADDER, LEVEL, type Learned } from '../../core/planning/ladder';
import { isPractised } from '../../core/procedures/practice';
import { among } from '../db/among';
import { type Acting, change } from '../db/change';
import { untilChanged } from '../db/memo';
import { requireSeen } from '../db/seen';
import { untilWritten } from '../db/written';
import { notFound } from '../errors';
import type { Person } from '../programme/programme';

const DELICATE: readonly Family[] = ['violin', 'viola', 'cello', 'double-bass', 'banjo', 'mandolin'];

/** How far somebody is with a family before anybody says so: helpers keep away from floating bridges. */
export const usualLevel = (role: Person['role'], family: Family): number =>
  role === 'helper' ? (DELICATE.includes(family) ? LEVEL.notYet : LEVEL.supervised) : LEVEL.supervises;

export type SignOffs = (person: Pick<Person, 'id' | 'role'>, family: Family) => number;

export async function loadSignOffs(db: Knex): Promise<SignOffs> {
  const known = await untilWritten(
    db,
    'sign-offs',
    async () => new Map((await db('sign_off')).map((s) => [`${s.person_id}/${s.family}`, s.level as number])),
  );
  return (person, family) => known.get(`${person.id}/${family}`) ?? usualLevel(person.role, family);
}

/** Says how far somebody is with a family, by the steps of the ladder. */
export async function setSignOff(
  db: Knex,
  acting: Acting,
  p: { personId: number; family: Family; level: number; was?: string | undefined },
): Promise<{ level: number }> {
  return change(db, acting, 'sign-off.set', p, async (trx) => {
    const person = await trx('person').where({ id: p.personId }).first('id', 'role');
    if (!person) throw notFound('This person');
    const before = (await loadSignOffs(trx))(person, p.family);
    requireSeen(p.was, before, `“${LADDER[before]}”`);
    const row = { person_id: p.personId, family: p.family };
    await trx('sign_off')
      .insert({ ...row, level: p.level })
      .onConflict(['person_id', 'family'])
      .merge();
    return { result: { level: p.level }, entity: 'person', entityId: p.personId };
  });
}

/** Somebody of whom nothing is on record. */
export const NOTHING_LEARNED: Omit<Learned, 'level'> = { watched: 0, done: 0, redone: 0, practised: 0, unseen: 0 };

/** A change again within so many days means that the one before was not right. */
const REDONE_DAYS = 7;
/** What somebody did longer ago says little of what they can do today. */
const LEARNED_DAYS = 730;

/**
 * What each helper has learned lately, by family: jobs they stood beside, as published plans say and the records confirm, jobs
 * they did while somebody stood by who says so, and those of them that had to be done again within a week.
 */
export function learnedOf(
  db: Knex,
  helpers: readonly Pick<Person, 'id' | 'role'>[],
  today: LocalDate,
): Promise<Map<string, Learned>> {
  const who = helpers.map((h) => `${h.id}${h.role}`).join();
  return untilChanged(db, 'learned', `${today}/${who}`, () => learnedAnew(db, helpers, today));
}

async function learnedAnew(
  db: Knex,
  helpers: readonly Pick<Person, 'id' | 'role'>[],
  today: LocalDate,
): Promise<Map<string, Learned>> {
  const levels = await loadSignOffs(db);
  const ids = helpers.map((h) => h.id);
  const learned = new Map<string, Learned>();
  const of = (personId: number, family: Family): Learned => {
    const key = `${personId}/${family}`;
    const known = learned.get(key);
    if (known) return known;
    const role = helpers.find((h) => h.id === personId)?.role ?? 'helper';
    const fresh = { ...NOTHING_LEARNED, level: levels({ id: personId, role }, family) };
    learned.set(key, fresh);
    return fresh;
  };
  const watched = await db('plan_job as j')
    .join('instrument as i', 'i.id', 'j.instrument_id')
    .join('standing_record as r', function () {
      this.on('r.instrument_id', 'j.instrument_id').andOn('r.on_day', 'j.on_day').andOn('r.person_id', 'j.person_id');
    })
    .whereIn('j.learner_id', among(db, ids))
    .whereBetween('j.on_day', [addDays(today, -LEARNED_DAYS), today])
    .distinct('j.learner_id', 'i.family', 'r.id');
  for (const w of watched) of(w.learner_id, w.family).watched += 1;
  const from = addDays(today, -LEARNED_DAYS);
  const done: { person_id: number; family: Family; done: number; redone: number; unseen: number }[] = await db(
    'standing_record as r',
  )
    .join('change_record as c', 'c.id', 'r.id')
    .join('instrument as i', 'i.id', 'r.instrument_id')
    .where('r.kind', 'change')
    .where('r.on_day', '>=', from)
    .whereIn('r.person_id', among(db, ids))
    .groupBy('r.person_id', 'i.family')
    .select('r.person_id', 'i.family')
    .select(
      // Changed again soon after, whoever did it.
      db.raw(
        `sum(c.supervised_by is not null) as done, sum(c.supervised_by is null) as unseen, sum(c.supervised_by is not null and exists (select 1 from standing_record n where n.instrument_id = r.instrument_id
          and n.kind = 'change' and n.id > r.id and n.on_day between r.on_day and date(r.on_day, ?))) as redone`,
        [`+${REDONE_DAYS} days`],
      ),
    );
  for (const d of done) {
    const own = of(d.person_id, d.family);
    own.done = Number(d.done);
    own.redone = Number(d.redone);
    own.unseen = Number(d.unseen);
  }
  const practised = await db('practice')
    .whereIn('person_id', among(db, ids))
    .where('on_day', '>=', from)
    .select('person_id', 'family', 'asked', 'right');
  for (const p of practised) if (isPractised(p)) of(p.person_id, p.family).practised += 1;
  return learned;
}
