import type { Knex } from 'knex';
import { addDays, type LocalDate } from '../../core/dates';
import { type EffortCell, type Efforts, learnEfforts, MOST_LOG } from '../../core/planning/effort';
import { remembered } from '../db/memo';

/** History that minutes are learned from. */
const HISTORY_DAYS = 420;
const LOG = 'ln(r.minutes / r.card_minutes)';

/** Sums by person and family, of all records up to one, on one day. */
interface Learned {
  today: LocalDate;
  upTo: number;
  cells: Map<string, EffortCell>;
}
const learned = new WeakMap<Knex, Learned>();

/**
 * How long work takes here, by family of instruments and person, from what the bench recorded: each change against the
 * minutes of its own card, which is what a plan multiplies again. Within a day only what was recorded or taken back since
 * is read, and added or taken off.
 */
export async function effortsOf(db: Knex, today: LocalDate): Promise<Efforts> {
  const last = (await db('change_record').max({ id: 'id' }).first())?.id ?? 0;
  return remembered(db, 'efforts', `${last}/${today}`, async () => {
    const known = learned.get(db);
    const cells =
      known && known.today === today && known.upTo <= last ? await since(db, known, last) : await all(db, today, last);
    if (!db.isTransaction) learned.set(db, { today, upTo: last, cells });
    return learnEfforts([...cells.values()].filter((c) => c.records > 0));
  });
}

/** Sums over records that count: of these weeks, timed, and neither so long nor so short that they tell of something else. */
const sums = (db: Knex, from: LocalDate): Knex.QueryBuilder =>
  db('change_record as r')
    .join('instrument as i', 'i.id', 'r.instrument_id')
    .where('r.kind', 'change')
    .where('r.on_day', '>=', from)
    .where('r.minutes', '>', 0)
    .where('r.card_minutes', '>', 0)
    .whereRaw(`abs(${LOG}) <= ?`, [MOST_LOG])
    .groupBy('r.person_id', 'i.family')
    .select({ person: 'r.person_id', method: 'i.family' })
    .select(db.raw(`count(*) as records, sum(${LOG}) as sum, sum(${LOG} * ${LOG}) as squares`));

/** Of records up to one, those that stood when it was written: what is taken back meanwhile is taken off next time. */
const stoodAt = (query: Knex.QueryBuilder, last: number): Knex.QueryBuilder =>
  query
    .where('r.id', '<=', last)
    .whereRaw(
      '(r.taken_back = 0 or not exists (select 1 from change_record c where c.corrects_id = r.id and c.id <= ?))',
      [last],
    );
const keyOf = (c: EffortCell): string => `${c.person}/${c.method}`;

async function all(db: Knex, today: LocalDate, last: number): Promise<Map<string, EffortCell>> {
  const rows: EffortCell[] = await stoodAt(sums(db, addDays(today, -HISTORY_DAYS)), last);
  return new Map(rows.map((c) => [keyOf(c), c]));
}

async function since(db: Knex, known: Learned, last: number): Promise<Map<string, EffortCell>> {
  const from = addDays(known.today, -HISTORY_DAYS);
  const cells = new Map(known.cells);
  const add = (rows: EffortCell[], sign: 1 | -1) => {
    for (const c of rows) {
      const before = cells.get(keyOf(c)) ?? { ...c, records: 0, sum: 0, squares: 0 };
      cells.set(keyOf(c), {
        ...before,
        records: before.records + sign * c.records,
        sum: before.sum + sign * c.sum,
        squares: before.squares + sign * c.squares,
      });
    }
  };
  add(await stoodAt(sums(db, from).where('r.id', '>', known.upTo), last), 1);
  const corrections = db('change_record')
    .where('kind', 'correction')
    .whereBetween('id', [known.upTo + 1, last])
    .select('corrects_id');
  // What was recorded and taken back since was never added.
  add(await sums(db, from).where('r.id', '<=', known.upTo).whereIn('r.id', corrections), -1);
  return cells;
}
