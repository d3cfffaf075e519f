import type { Knex } from 'knex';
import type { Instrument } from './instruments';

/** Instruments that one connection keeps at most: as many as a plan takes in, and what lies open beside it. */
const MOST_KEPT = 5000;

interface Kept {
  /** The last write that is taken into account. */
  seq: number;
  instruments: Map<number, Instrument>;
}
const keptBy = new WeakMap<Knex, Kept>();

/**
 * Instruments by id, read from the database only where they were written since they were read last, by whatever thread
 * or process: a plan of two thousand is then made anew by what changed. What is returned is frozen.
 *
 * Within a transaction nothing is kept, since what it wrote may be taken back.
 *
 * @param read reads instruments; ids that nobody has are left out
 */
export async function keptInstruments(
  db: Knex,
  ids: readonly number[],
  read: (ids: readonly number[]) => Promise<Instrument[]>,
): Promise<Instrument[]> {
  if (db.isTransaction) return read(ids);
  const kept = keptBy.get(db) ?? { seq: -1, instruments: new Map<number, Instrument>() };
  keptBy.set(db, kept);
  await forgetWritten(db, kept);
  const { seq } = kept;
  const unique = [...new Set(ids)];
  const known = new Map<number, Instrument>();
  for (const id of unique) {
    const instrument = kept.instruments.get(id);
    if (instrument) known.set(id, instrument);
  }
  const missing = unique.filter((id) => !known.has(id));
  if (missing.length > 0) {
    const fresh = await read(missing);
    // Where others have seen a later write meanwhile, this may be older than they believe.
    const current = kept.seq === seq;
    if (current && kept.instruments.size + fresh.length > MOST_KEPT) kept.instruments.clear();
    for (const instrument of fresh) {
      freeze(instrument);
      known.set(instrument.id, instrument);
      if (current) kept.instruments.set(instrument.id, instrument);
    }
  }
  return unique.flatMap((id) => known.get(id) ?? []);
}

async function forgetWritten(db: Knex, kept: Kept): Promise<void> {
  const before = kept.seq;
  const rows: { seq: number; instrument_id: number }[] = await db('instrument_touched')
    .where('seq', '>=', before)
    .orderBy('seq')
    .limit(MOST_KEPT + 1);
  // What was seen last is gone, as after a night's tidying, or more was written than is kept: nobody knows what.
  const whole = rows.length <= MOST_KEPT && (before === -1 || rows[0]?.seq === before);
  const last = whole ? rows.at(-1)?.seq : (await db('instrument_touched').max({ seq: 'seq' }).first())?.seq;
  // From here on in one go: nobody keeps anything in between.
  if (whole) for (const { instrument_id } of rows) kept.instruments.delete(instrument_id);
  else kept.instruments.clear();
  kept.seq = Math.max(kept.seq, last ?? -1);
}

function freeze(instrument: Instrument): void {
  Object.freeze(instrument);
  Object.freeze(instrument.build);
  Object.freeze(instrument.build.positions);
  Object.freeze(instrument.positions);
  for (const p of instrument.positions) Object.freeze(p);
}
