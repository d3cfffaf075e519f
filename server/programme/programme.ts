import type { Knex } from 'knex';
import type { LocalDate } from '../../core/dates';
import { FAMILIES } from '../../core/instruments/build';
import type { Manner } from '../../core/manner';
import { newHouse } from '../../core/procedures/houseMethod';
import { HOUSE_CARE } from '../../core/wear/care';
import { insertId } from '../db/change';
import { must } from '../db/must';
import { transact } from '../db/transact';
import { untilWritten } from '../db/written';
import { refused } from '../errors';
import { intervalColumns } from '../fleet/intervals';

export interface Programme {
  name: string;
  timeZone: string;
  a4Hz: number;
  isDemo: boolean;
  manner: Manner;
  /** The usual working day, as local times. */
  day: { from: string; to: string };
  trust: Trust;
}

/** Who is told what, and for how long. */
export interface Trust {
  /** Where the programme is reached from elsewhere, as "https://strings.school.example"; empty where nobody said. */
  address: string;
  /** Whether anybody who stands before an instrument may say by its label that something is wrong. */
  byLabel: boolean;
  /** Who sees how somebody works: they themselves, coordinators too, or whoever works at a desk. */
  performance: 'own' | 'coordinator' | 'desk';
  /** Names of those who said something by a label are kept so many days. */
  saidDays: number;
}

export interface Person {
  id: number;
  name: string;
  initials: string;
  role: 'coordinator' | 'technician' | 'helper' | 'teacher';
  placeId: number;
  placeName: string;
  horizonOn: LocalDate | null;
}

/** The programme of this database, or null before the first run is done. */
export const loadProgramme = (db: Knex): Promise<Programme | null> =>
  untilWritten(db, 'programme', () => readProgramme(db));

async function readProgramme(db: Knex): Promise<Programme | null> {
  const row = await db('programme').first();
  return row
    ? {
        name: row.name,
        timeZone: row.time_zone,
        a4Hz: row.a4_hz,
        isDemo: Boolean(row.is_demo),
        manner: {
          currency: row.currency,
          days: row.day_style,
          weekStarts: row.week_starts,
          lengths: row.lengths,
          gauges: row.gauges,
        },
        day: { from: row.day_from, to: row.day_to },
        trust: {
          address: row.address,
          byLabel: Boolean(row.by_label),
          performance: row.performance,
          saidDays: row.said_days,
        },
      }
    : null;
}

const people = (db: Knex) =>
  db('person as p').join('place as l', 'l.id', 'p.place_id').select('p.*', 'l.name as place_name').orderBy('p.id');

const personOf = (r: Record<string, unknown>): Person => ({
  id: r.id as number,
  name: r.name as string,
  initials: r.initials as string,
  role: r.role as Person['role'],
  placeId: r.place_id as number,
  placeName: r.place_name as string,
  horizonOn: r.horizon_on as LocalDate | null,
});

/** The people of the programme, without those who have left it. */
export const loadPeople = (db: Knex): Promise<readonly Person[]> =>
  untilWritten(db, 'people', async () => (await people(db).whereNull('p.retired_on')).map(personOf));

/** Everybody who is or was in the programme, by name only. */
export const loadEverybody = (db: Knex): Promise<Pick<Person, 'id' | 'name'>[]> =>
  db('person').orderBy('id').select('id', 'name');

/** The person of this id, who has not left. */
export async function loadPerson(db: Knex, id: number): Promise<Person> {
  return must((await loadPeople(db)).find((p) => p.id === id));
}

export interface Place {
  id: number;
  name: string;
  isStore: boolean;
  /** Instruments that lie on the bench together; null: any number. */
  benchSpace: number | null;
  /** When the last way back leaves, as "16:20"; empty: at any time. */
  lastWay: string;
}

/** The places of the programme, without those that were given up. */
export const loadPlaces = (db: Knex): Promise<readonly Place[]> =>
  untilWritten(db, 'places', async () =>
    (await db('place').whereNull('retired_on').orderBy('id')).map((r) => ({
      id: r.id,
      name: r.name,
      isStore: Boolean(r.is_store),
      benchSpace: r.bench_space,
      lastWay: r.last_way,
    })),
  );

export interface NewProgramme {
  name: string;
  timeZone: string;
  a4Hz: number;
  places: { name: string; isStore: boolean }[];
  people: { name: string; initials: string; role: Person['role']; place: string }[];
  isDemo: boolean;
}

/**
 * Starts the programme in an empty database: its name, places and people, the care rules and the house methods that
 * a new programme begins with.
 * @throws UserError when there is a programme already
 */
export async function startProgramme(db: Knex, p: NewProgramme, now: number): Promise<void> {
  await transact(db, async (trx) => {
    if (await trx('programme').first())
      throw refused(
        'programme-exists',
        'There is already a programme',
        'This data folder already has a programme. Use another folder for a second one.',
      );
    await trx('programme').insert({
      id: 1,
      name: p.name,
      time_zone: p.timeZone,
      a4_hz: p.a4Hz,
      created_at: now,
      is_demo: p.isDemo,
    });
    const placeIds = new Map<string, number>();
    for (const place of p.places)
      placeIds.set(place.name, await insertId(trx, 'place', { name: place.name, is_store: place.isStore }));
    for (const person of p.people) {
      const placeId = placeIds.get(person.place);
      if (!placeId)
        throw refused(
          'unknown-place',
          'Unknown place',
          `${person.name} works at “${person.place}”, which is not one of the places.`,
        );
      await trx('person').insert({
        name: person.name,
        initials: person.initials,
        role: person.role,
        place_id: placeId,
      });
    }
    for (const family of FAMILIES) {
      const care = HOUSE_CARE[family];
      await trx('interval_version').insert({ ...intervalColumns('family', family, care), version: 1 });
      await trx('method_version').insert({ family, version: 1, house: JSON.stringify(newHouse(family)), why: '' });
    }
  });
}

/** The programme's row, of which there is one as soon as anything is done in it. */
export const programmeRow = async (db: Knex) => must(await db('programme').first());
