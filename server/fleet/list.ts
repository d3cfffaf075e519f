import type { Knex } from 'knex';
import type { Tables } from 'knex/types/tables.js';
import type { FleetQuery } from '../../contract/fleet';
import { addDays, type LocalDate } from '../../core/dates';
import { findWords } from '../../core/find/findable';
import { describeBuild, type Family } from '../../core/instruments/build';
import { type Due, playHours, type UsePeriod } from '../../core/wear/due';
import { encodeStrip, stripAt } from '../../core/wear/strip';
import { shortReason } from '../../core/wear/words';
import { sayDone } from '../../core/work/done';
import { among } from '../db/among';
import * as columns from '../db/columns';
import { untilChanged } from '../db/memo';
import { untilWritten } from '../db/written';
import { periodOf, stateFacts } from './state';

export interface FleetRow {
  tag: string;
  name: string;
  family: Family;
  place: string;
  holder: string;
  /** The strip as `encodeStrip` writes it. */
  strip: string;
  dueOn: LocalDate;
  dueBy: Due['by'];
  because: string;
  readyAt: number | null;
  broken: boolean;
  changedOn: LocalDate | null;
  changedWhat: string;
}

export interface FleetPage {
  rows: FleetRow[];
  /** The horizon the counts are for. */
  horizon: LocalDate;
  /** Instruments that the filters leave. */
  matching: number;
  /** Of those that place, family and search leave: due by the horizon, and all. */
  dueByHorizon: number;
  inScope: number;
}

const escapeLike = (text: string) => text.replace(/[\\%_]/g, (c) => `\\${c}`);

export function scoped(db: Knex, query: Pick<FleetQuery, 'q' | 'place' | 'family'>) {
  const base = db('instrument_state as s');
  if (query.place !== null) base.where('s.place_id', query.place);
  if (query.family !== null) base.where('s.family', query.family);
  for (const word of findWords(query.q)) {
    base.whereRaw("s.search like ? escape '\\'", [`%${escapeLike(word)}%`]);
  }
  return base;
}

function matchingStates(db: Knex, query: FleetQuery, at: { today: LocalDate; now: number; horizon: LocalDate }) {
  const filtered = scoped(db, query);
  if (query.due === 'horizon') filtered.where('s.due_on', '<=', at.horizon);
  if (query.due === 'overdue') filtered.where('s.due_on', '<', at.today);
  if (query.due === 'broken') filtered.where('s.broken', true);
  if (query.due === 'settling') filtered.where('s.ready_at', '>', at.now);
  return filtered;
}

/** All instruments that the filters leave, by id. */
export const fleetIds = (
  db: Knex,
  query: FleetQuery,
  at: { today: LocalDate; now: number; horizon: LocalDate },
): Promise<number[]> => matchingStates(db, query, at).pluck('s.instrument_id');

/** How many there are, of what place, family and search leave, and of all filters: asked by everybody, and slow in a large fleet. */
function counts(db: Knex, query: FleetQuery, at: { today: LocalDate; now: number; horizon: LocalDate }) {
  const { q, place, family, due } = query;
  // Of the moment only where it matters.
  const when = due === 'settling' ? at.now : at.today;
  return untilWritten(db, `fleet/${JSON.stringify([q, place, family, due, at.horizon, when])}`, async () => {
    const counted = await scoped(db, query)
      .count({ all: '*' })
      .sum({ due: db.raw('case when s.due_on <= ? then 1 else 0 end', [at.horizon]) })
      .first();
    const inScope = Number(counted?.all ?? 0);
    const dueByHorizon = Number(counted?.due ?? 0);
    const matching =
      due === 'all'
        ? inScope
        : due === 'horizon'
          ? dueByHorizon
          : Number((await matchingStates(db, query, at).count({ n: '*' }).first())?.n ?? 0);
    return { inScope, dueByHorizon, matching };
  });
}

/** The rows of the Fleet table, with the counts its headline needs. */
export async function listFleet(
  db: Knex,
  query: FleetQuery,
  at: { today: LocalDate; now: number; horizon: LocalDate },
): Promise<FleetPage> {
  const { dueByHorizon, inScope, matching } = await counts(db, query, at);
  const filtered = matchingStates(db, query, at);

  const direction = query.descending ? 'desc' : 'asc';
  const column = { due: 's.due_on', tag: null, instrument: 's.family', place: 's.place_name', changed: 's.changed_on' }[
    query.sort
  ];
  const ordered = filtered.clone();
  if (column) ordered.orderBy(column, direction);
  const rows = await ordered
    // The same way as the column, so that an index serves both.
    .orderBy('s.tag', direction)
    .limit(query.limit)
    .offset(query.offset)
    .select(ROW);
  return { rows: rows.map((row) => fleetRow(row, at)), horizon: at.horizon, matching, dueByHorizon, inScope };
}

/** Families of which there are instruments; none in an empty fleet. */
export async function familiesHere(db: Knex): Promise<Family[]> {
  return db('instrument').whereNull('retired_on').distinct().pluck('family');
}

/** Fleet rows for these instruments, in the order of the ids. */
export async function fleetRows(
  db: Knex,
  ids: readonly number[],
  at: { today: LocalDate; now: number },
): Promise<FleetRow[]> {
  const rows = await db('instrument_state as s').whereIn('s.instrument_id', among(db, ids)).select(ROW);
  const byId = new Map(rows.map((r) => [r.instrument_id, r]));
  return ids.flatMap((id) => {
    const row = byId.get(id);
    return row ? [fleetRow(row, at)] : [];
  });
}

/** What a row of the table takes of instrument_state. */
const ROW = [
  's.instrument_id',
  's.tag',
  's.family',
  's.size',
  's.place_name',
  's.holder',
  's.strip',
  's.due',
  's.facts',
  's.ready_at',
  's.broken',
  's.changed_on',
  's.changed_done',
] as const;
type StateRow = Pick<
  Tables['instrument_state']['base'],
  (typeof ROW)[number] extends `s.${infer Column}` ? Column & keyof Tables['instrument_state']['base'] : never
>;

/** A row of instrument_state as it is to be shown on a day. */
function fleetRow(row: StateRow, at: { today: LocalDate; now: number }): FleetRow {
  const due = columns.due.shared(row.due);
  const facts = stateFacts.shared(row.facts);
  return {
    tag: row.tag,
    name: describeBuild(row.family, row.size),
    family: row.family,
    place: row.place_name,
    holder: row.holder,
    strip: encodeStrip(stripAt(columns.strip.shared(row.strip), at.today, at.now)),
    dueOn: due.on,
    dueBy: due.by,
    because: shortReason(due, {
      today: at.today,
      rule: facts.rule,
      hoursUsed: due.since ? playHours(facts.use, due.since, at.today) : 0,
      nameOf: (number) => facts.notes[number] ?? `string ${number}`,
    }),
    readyAt: row.ready_at && row.ready_at > at.now ? row.ready_at : null,
    broken: Boolean(row.broken),
    changedOn: row.changed_on ?? null,
    changedWhat: row.changed_done === null ? '' : sayDone(columns.done.shared(row.changed_done)),
  };
}

export async function periodsOf(db: Knex, ids: readonly number[]): Promise<Map<number, UsePeriod[]>> {
  const rows = await db('use_period').whereIn('instrument_id', among(db, ids)).orderBy('from_on');
  const result = new Map<number, UsePeriod[]>();
  for (const row of rows) result.set(row.instrument_id, [...(result.get(row.instrument_id) ?? []), periodOf(row)]);
  return result;
}

/** What the horizon ruler draws: how many fall due on each day (overdue ones on today), and the concerts. */
export interface HorizonData {
  today: LocalDate;
  horizon: LocalDate;
  weeks: number;
  due: { on: LocalDate; count: number }[];
  concerts: { name: string; on: LocalDate; place: string | null }[];
}

export const HORIZON_WEEKS = 12;

export async function horizonData(db: Knex, at: { today: LocalDate; horizon: LocalDate }): Promise<HorizonData> {
  return { ...(await untilChanged(db, 'horizon', at.today, () => dueAhead(db, at.today))), ...at };
}

async function dueAhead(db: Knex, today: LocalDate): Promise<Omit<HorizonData, 'today' | 'horizon'>> {
  const end = addDays(today, HORIZON_WEEKS * 7);
  const overdue = await db('instrument_state').where('due_on', '<=', today).count({ n: '*' }).first();
  const days = await db('instrument_state')
    .where('due_on', '>', today)
    .where('due_on', '<=', end)
    .groupBy('due_on')
    .orderBy('due_on')
    .select('due_on as on')
    .count<{ on: LocalDate; count: number }[]>({ count: '*' });
  const concerts = await db('concert as c')
    .leftJoin('place as p', 'p.id', 'c.place_id')
    .whereBetween('c.on_day', [today, end])
    .orderBy('c.on_day')
    .select('c.name', 'c.on_day as on', 'p.name as place');
  const late = Number(overdue?.n ?? 0);
  return {
    weeks: HORIZON_WEEKS,
    due: [...(late ? [{ on: today, count: late }] : []), ...days.map((d) => ({ on: d.on, count: Number(d.count) }))],
    concerts,
  };
}
