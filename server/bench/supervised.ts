import type { Knex } from 'knex';
import { addDays, type LocalDate } from '../../core/dates';
import { FAMILY_NAMES, type Family } from '../../core/instruments/build';
import { LEVEL } from '../../core/planning/ladder';
import { sayDone } from '../../core/work/done';
import { type Acting, change } from '../db/change';
import * as columns from '../db/columns';
import { untilChanged } from '../db/memo';
import { conflict, notFound, refused } from '../errors';
import { loadSignOffs } from '../plan/signOffs';
import { loadPeople, type Person } from '../programme/programme';

/** Whoever stood by remembers it so long. */
const REMEMBERED_DAYS = 21;
const MOST_ASKED = 20;

/** A change that somebody made who may only under supervision, and nobody has said yet that they stood by. */
export interface Unconfirmed {
  recordId: number;
  tag: string;
  family: Family;
  place: string;
  by: string;
  personId: number;
  on: LocalDate;
  summary: string;
}

/** All of the last weeks, the latest first; of one record where it is named. */
export async function unconfirmed(db: Knex, today: LocalDate, recordId?: number): Promise<Unconfirmed[]> {
  const levels = await loadSignOffs(db);
  const query = db('standing_record as r')
    .join('change_record as c', 'c.id', 'r.id')
    .join('instrument as i', 'i.id', 'r.instrument_id')
    .join('place as l', 'l.id', 'i.place_id')
    .join('person as p', 'p.id', 'r.person_id')
    .where({ 'r.kind': 'change', 'p.role': 'helper' })
    .whereNull('c.supervised_by')
    .where('r.on_day', '>', addDays(today, -REMEMBERED_DAYS))
    .orderBy('r.id', 'desc')
    .limit(MOST_ASKED);
  if (recordId !== undefined) query.where('r.id', recordId);
  const rows: Record<string, string | number>[] = await query.select(
    'r.id',
    'i.tag',
    'i.family',
    'l.name as place',
    'p.name as by',
    'p.role',
    'r.person_id',
    'r.on_day',
    'r.done',
  );
  return rows
    .map((r) => ({
      recordId: r.id as number,
      tag: r.tag as string,
      family: r.family as Family,
      place: r.place as string,
      by: r.by as string,
      personId: r.person_id as number,
      on: r.on_day as LocalDate,
      summary: sayDone(columns.done.read(r.done as string)),
    }))
    .filter((u) => levels({ id: u.personId, role: 'helper' }, u.family) < LEVEL.alone);
}

const maySupervise = (levels: Awaited<ReturnType<typeof loadSignOffs>>, p: Pick<Person, 'id' | 'role'>, f: Family) =>
  (p.role === 'technician' || p.role === 'coordinator') && levels(p, f) >= LEVEL.supervises;

/** Who could have stood by a change of a family. */
export async function supervisorsOf(db: Knex, family: Family): Promise<Person[]> {
  const levels = await loadSignOffs(db);
  return (await loadPeople(db)).filter((p) => maySupervise(levels, p, family));
}

/** What somebody may have stood by at their place, for them to say so. */
export async function askedOf(
  db: Knex,
  person: Pick<Person, 'id' | 'role' | 'placeName'>,
  today: LocalDate,
): Promise<Unconfirmed[]> {
  const levels = await loadSignOffs(db);
  return (await untilChanged(db, 'unconfirmed', today, () => unconfirmed(db, today))).filter(
    (u) => u.place === person.placeName && maySupervise(levels, person, u.family),
  );
}

/**
 * Somebody says that they stood by while a change was made. Nobody says it for them: they are signed in, or have given
 * their digits.
 * @throws UserError not-found, `not-supervised` for who may not, conflict where it was said already
 */
export async function standBy(
  db: Knex,
  acting: Acting,
  p: { recordId: number },
  today: LocalDate,
): Promise<{ supervisedBy: number }> {
  return change(db, acting, 'record.supervised', p, async (trx) => {
    const known = await trx('change_record').where({ id: p.recordId }).first('supervised_by');
    if (!known) throw notFound('This record');
    if (known.supervised_by !== null) throw conflict('Someone has already confirmed that they supervised this.', {});
    const [record] = await unconfirmed(trx, today, p.recordId);
    if (!record)
      throw refused(
        'not-supervised',
        'Nothing to confirm',
        'There is nothing to confirm: it was undone, is too long ago, or was done by someone who may work alone.',
      );
    const supervisors = await supervisorsOf(trx, record.family);
    if (!supervisors.some((s) => s.id === acting.personId))
      throw refused(
        'not-supervised',
        'Not signed off to supervise',
        `${FAMILY_NAMES[record.family]}: only someone signed off to supervise it can confirm this.`,
      );
    await trx('change_record')
      .where({ id: p.recordId })
      .update({ supervised_by: acting.personId, supervised_at: acting.now });
    return { result: { supervisedBy: acting.personId }, entity: 'change_record', entityId: p.recordId };
  });
}
