import type { Knex } from 'knex';
import type { NewPerson, NewPlace, ProgrammeSettings, TrustSettings } from '../../contract/people';
import { plural } from '../../core/count';
import type { LocalDate } from '../../core/dates';
import { localDate } from '../clock';
import { type Acting, change, insertId } from '../db/change';
import { conflict, notFound, refused } from '../errors';
import { refreshStates } from '../fleet/state';
import { type Person, programmeRow } from './programme';

/** Initials of a name, where somebody has none of their own: "Runa Fell" is RF. */
export const initialsOf = (name: string): string =>
  name
    .trim()
    .split(/\s+/)
    .map((word) => [...word][0]?.toUpperCase() ?? '')
    .join('')
    .slice(0, 3);

export interface ManagedPerson extends Pick<Person, 'id' | 'name' | 'initials' | 'role' | 'placeId' | 'placeName'> {
  version: number;
  leftOn: LocalDate | null;
  /** What hangs on them: jobs open on the bench, days of the week they are there. */
  openJobs: number;
  shifts: number;
}

export interface ManagedPlace {
  id: number;
  name: string;
  isStore: boolean;
  version: number;
  givenUpOn: LocalDate | null;
  instruments: number;
  /** Sets, strings and what is used up, as pieces on the shelf. */
  pieces: number;
  people: number;
}

const counts = async (query: Knex.QueryBuilder, by: string): Promise<Map<number, number>> =>
  new Map(
    ((await query.groupBy(by).select(by).count({ n: '*' })) as Record<string, number>[]).map((r) => [
      Number(r[by.split('.').at(-1) as string]),
      Number(r.n),
    ]),
  );

/** Everybody and every place there is or was, with what hangs on each. */
export async function managed(db: Knex): Promise<{ people: ManagedPerson[]; places: ManagedPlace[]; version: number }> {
  const jobs = await counts(db('job').where({ status: 'open' }), 'opened_by');
  const shifts = await counts(db('availability'), 'person_id');
  const instruments = await counts(db('instrument').whereNull('retired_on'), 'place_id');
  const working = await counts(db('person').whereNull('retired_on'), 'place_id');
  const pieces = new Map(
    (
      (await db('lot_balance').groupBy('place_id').select('place_id').sum({ n: 'on_hand' })) as unknown as {
        place_id: number;
        n: number;
      }[]
    ).map((r) => [r.place_id, Number(r.n)]),
  );
  const people = await db('person as p')
    .join('place as l', 'l.id', 'p.place_id')
    .orderBy('p.id')
    .select('p.*', 'l.name as place_name');
  const places = await db('place').orderBy('id');
  return {
    version: (await programmeRow(db)).version,
    people: people.map((p) => ({
      id: p.id,
      name: p.name,
      initials: p.initials,
      role: p.role,
      placeId: p.place_id,
      placeName: p.place_name,
      version: p.version,
      leftOn: p.retired_on,
      openJobs: jobs.get(p.id) ?? 0,
      shifts: shifts.get(p.id) ?? 0,
    })),
    places: places.map((p) => ({
      id: p.id,
      name: p.name,
      isStore: Boolean(p.is_store),
      version: p.version,
      givenUpOn: p.retired_on,
      instruments: instruments.get(p.id) ?? 0,
      pieces: pieces.get(p.id) ?? 0,
      people: working.get(p.id) ?? 0,
    })),
  };
}

/** That a row is as whoever changes it saw it. @throws UserError not-found, `conflict` */
function asSeen<R extends { name: string; version: number }>(row: R | undefined, expected: number, what: string): R {
  if (!row) throw notFound(what);
  if (row.version !== expected)
    throw conflict(`Someone else has changed ${row.name}. Reload to see it, then change it again.`, {
      currentVersion: row.version,
      current: row,
    });
  return row;
}
const personAsSeen = async (trx: Knex, p: { id: number; expectedVersion: number }) =>
  asSeen(await trx('person').where({ id: p.id }).first(), p.expectedVersion, 'This person');
const placeAsSeen = async (trx: Knex, p: { id: number; expectedVersion: number }) =>
  asSeen(await trx('place').where({ id: p.id }).first(), p.expectedVersion, 'This place');

async function placeThere(trx: Knex, id: number) {
  const place = await trx('place').where({ id }).whereNull('retired_on').first();
  if (!place) throw notFound('This place');
}

async function nameFree(trx: Knex, table: 'person' | 'place', name: string, but: number | null) {
  const same = await trx(table)
    .whereRaw('lower(name) = ?', [name.toLowerCase()])
    .whereNot('id', but ?? -1)
    .first();
  if (same)
    throw refused(
      'name-taken',
      'This name is taken',
      same.retired_on
        ? `${same.name} has been here before: bring them back instead of adding them again.`
        : `“${same.name}” is already in use. Choose a name that tells the two apart.`,
    );
}

export async function addPerson(db: Knex, acting: Acting, p: NewPerson): Promise<{ personId: number }> {
  return change(db, acting, 'person.add', p, async (trx) => {
    await placeThere(trx, p.placeId);
    await nameFree(trx, 'person', p.name, null);
    const personId = await insertId(trx, 'person', {
      name: p.name,
      initials: p.initials || initialsOf(p.name),
      role: p.role,
      place_id: p.placeId,
    });
    return { result: { personId }, entity: 'person', entityId: personId };
  });
}

/** A programme without a coordinator could not be put right by anybody. */
async function keepCoordinator(trx: Knex, without: number) {
  const other = await trx('person')
    .where({ role: 'coordinator' })
    .whereNull('retired_on')
    .whereNot('id', without)
    .first();
  if (!other)
    throw refused(
      'last-coordinator',
      'No other coordinator',
      'This is the only coordinator. Make someone else a coordinator first.',
    );
}

export async function editPerson(
  db: Knex,
  acting: Acting,
  p: NewPerson & { id: number; expectedVersion: number },
): Promise<{ version: number }> {
  return change(db, acting, 'person.edit', p, async (trx) => {
    const before = await personAsSeen(trx, p);
    await placeThere(trx, p.placeId);
    await nameFree(trx, 'person', p.name, p.id);
    if (before.role === 'coordinator' && p.role !== 'coordinator') await keepCoordinator(trx, p.id);
    const version = before.version + 1;
    await trx('person')
      .where({ id: p.id })
      .update({
        name: p.name,
        initials: p.initials || initialsOf(p.name),
        role: p.role,
        place_id: p.placeId,
        version,
      });
    return { result: { version }, entity: 'person', entityId: p.id, detail: { before, after: p } };
  });
}

/**
 * Somebody leaves: they are not planned for and not to be chosen any more; what they did stays theirs. Their hours go, and
 * the plan is made anew without them. Said of somebody who has left, they are back.
 * @throws UserError `jobs-open`, `last-coordinator`, `yourself`, conflict
 */
export async function retirePerson(
  db: Knex,
  acting: Acting,
  p: { id: number; expectedVersion: number },
): Promise<{ left: boolean }> {
  return change(db, acting, 'person.retire', p, async (trx) => {
    const row = await personAsSeen(trx, p);
    const leaves = row.retired_on === null;
    if (leaves) {
      if (p.id === acting.personId)
        throw refused(
          'yourself',
          'You cannot mark yourself as having left',
          'Ask another coordinator to mark you as having left.',
        );
      if (row.role === 'coordinator') await keepCoordinator(trx, p.id);
      const open = await trx('job as j')
        .join('instrument as i', 'i.id', 'j.instrument_id')
        .where({ 'j.status': 'open', 'j.opened_by': p.id })
        .pluck('i.tag');
      if (open.length > 0)
        throw refused(
          'jobs-open',
          'On the bench',
          `${row.name} has ${open.join(', ')} on the bench. Finish or close ${plural(open.length, 'that', 'those')} first.`,
        );
      await trx('availability').where({ person_id: p.id }).del();
    }
    const programme = await programmeRow(trx);
    await trx('person')
      .where({ id: p.id })
      .update({ retired_on: leaves ? localDate(acting.now, programme.time_zone) : null, version: row.version + 1 });
    return { result: { left: leaves }, entity: 'person', entityId: p.id };
  });
}

export async function addPlace(db: Knex, acting: Acting, p: NewPlace): Promise<{ placeId: number }> {
  return change(db, acting, 'place.add', p, async (trx) => {
    await nameFree(trx, 'place', p.name, null);
    const placeId = await insertId(trx, 'place', { name: p.name, is_store: p.isStore });
    return { result: { placeId }, entity: 'place', entityId: placeId };
  });
}

/** Renames a place, or says whether strings are kept there; what is kept under its name follows. */
export async function editPlace(
  db: Knex,
  acting: Acting,
  p: NewPlace & { id: number; expectedVersion: number },
): Promise<{ version: number }> {
  return change(db, acting, 'place.edit', p, async (trx) => {
    const before = await placeAsSeen(trx, p);
    await nameFree(trx, 'place', p.name, p.id);
    if (before.is_store && !p.isStore) {
      const other = await trx('place').where({ is_store: true }).whereNull('retired_on').whereNot('id', p.id).first();
      if (!other)
        throw refused(
          'last-store',
          'Strings have to be kept somewhere',
          'This is the only place where strings are kept. Make another place a store first.',
        );
    }
    const version = before.version + 1;
    await trx('place').where({ id: p.id }).update({ name: p.name, is_store: p.isStore, version });
    if (before.name !== p.name) {
      const programme = await programmeRow(trx);
      const ids: number[] = await trx('instrument').where({ place_id: p.id }).pluck('id');
      await refreshStates(trx, ids, { now: acting.now, timeZone: programme.time_zone });
    }
    return { result: { version }, entity: 'place', entityId: p.id, detail: { before, after: p } };
  });
}

/**
 * A place is given up, or taken again. Whatever is there has to be moved first: it would be nowhere.
 * @throws UserError `still-there` with what is, `last-store`, conflict
 */
export async function retirePlace(
  db: Knex,
  acting: Acting,
  p: { id: number; expectedVersion: number },
): Promise<{ givenUp: boolean }> {
  return change(db, acting, 'place.retire', p, async (trx) => {
    const row = await placeAsSeen(trx, p);
    const givenUp = row.retired_on === null;
    if (givenUp) {
      const { places } = await managed(trx);
      const there = places.find((x) => x.id === p.id);
      const left = [
        [there?.instruments ?? 0, 'instrument'],
        [there?.pieces ?? 0, 'piece', 'on the shelf'],
        [there?.people ?? 0, 'person working there'],
      ] as const;
      const said = left.flatMap(([n, one, where]) =>
        n > 0
          ? [
              `${n} ${n === 1 ? one : one === 'person working there' ? 'people working there' : `${one}s`}${where ? ` ${where}` : ''}`,
            ]
          : [],
      );
      if (said.length > 0)
        throw refused('still-there', `${row.name} is not empty`, `First move what is still there: ${said.join(', ')}.`);
      if (row.is_store && places.filter((x) => x.isStore && x.givenUpOn === null).length === 1)
        throw refused(
          'last-store',
          'Strings have to be kept somewhere',
          'This is the only place where strings are kept. Make another place a store first.',
        );
      await trx('availability').where({ place_id: p.id }).del();
    }
    const programme = await programmeRow(trx);
    await trx('place')
      .where({ id: p.id })
      .update({ retired_on: givenUp ? localDate(acting.now, programme.time_zone) : null, version: row.version + 1 });
    return { result: { givenUp }, entity: 'place', entityId: p.id };
  });
}

/** The programme's name, time zone and reference pitch; another zone gives every day anew. */
export async function editProgramme(db: Knex, acting: Acting, p: ProgrammeSettings): Promise<{ version: number }> {
  return change(db, acting, 'programme.edit', p, async (trx) => {
    const before = await programmeRow(trx);
    if (before.version !== p.expectedVersion)
      throw conflict('Someone else has changed the programme. Reload to see it, then change it again.', {
        currentVersion: before.version,
        current: before,
      });
    const version = before.version + 1;
    await trx('programme').update({
      name: p.name,
      time_zone: p.timeZone,
      a4_hz: p.a4Hz,
      // What a request does not say stays.
      currency: p.currency ?? before.currency,
      day_style: p.dayStyle ?? before.day_style,
      week_starts: p.weekStarts ?? before.week_starts,
      lengths: p.lengths ?? before.lengths,
      gauges: p.gauges ?? before.gauges,
      day_from: p.dayFrom ?? before.day_from,
      day_to: p.dayTo ?? before.day_to,
      version,
    });
    if (before.time_zone !== p.timeZone)
      await refreshStates(trx, await trx('instrument').pluck('id'), { now: acting.now, timeZone: p.timeZone });
    return { result: { version }, entity: 'programme', entityId: 1, detail: { before, after: p } };
  });
}

/** Where the programme is reached, what labels may be used for, and who is told what. */
export async function editTrust(db: Knex, acting: Acting, p: TrustSettings): Promise<{ version: number }> {
  return change(db, acting, 'programme.trust', p, async (trx) => {
    const before = await programmeRow(trx);
    if (before.version !== p.expectedVersion)
      throw conflict('Someone else has changed the programme. Reload to see it, then change it again.', {
        currentVersion: before.version,
        current: before,
      });
    const version = before.version + 1;
    await trx('programme').update({
      address: p.address,
      by_label: p.byLabel,
      performance: p.performance,
      said_days: p.saidDays,
      version,
    });
    return { result: { version }, entity: 'programme', entityId: 1 };
  });
}
