import Database from 'better-sqlite3';
import type { Knex } from 'knex';
import { z } from 'zod';
import { columnOf } from '../db/columns';
import type { Anchor } from './anchor';
import { type Chained, chainHash, detailHash } from './chain';

/** Who a change is of that nobody signed in made: said by the code on a label. */
export const NOBODY = 0;

export interface Entry {
  at: number;
  personId: number;
  action: string;
  entity: string;
  entityId: number;
  key: string;
  /** The address it came from, and the bench; empty for what the server did by itself. */
  from: string;
  detail: string;
  changed: string;
}

/** Writes an entry after the last one, within the transaction of what it tells of. */
export async function addEntry(trx: Knex, e: Entry): Promise<void> {
  const last = await trx('audit').orderBy('id', 'desc').first('hash');
  const chained: Chained = {
    at: e.at,
    person_id: e.personId,
    action: e.action,
    entity: e.entity,
    entity_id: e.entityId,
    idempotency_key: e.key,
    from_where: e.from,
    detail_hash: detailHash(e),
    prev_hash: last?.hash ?? '',
  };
  await trx('audit').insert({ ...chained, detail: e.detail, changed: e.changed, hash: chainHash(chained) });
}

/** Things that are edited in their rows, and so have a before; all else is added beside what was there. */
const EDITED: ReadonlySet<string> = new Set([
  'class',
  'concert',
  'fault_case',
  'follow_up',
  'instrument',
  'lot',
  'person',
  'place',
  'product',
  'programme',
  'purchase_order',
  'said',
  'supplier',
]);
/** Of a longer value the beginning tells what it was. */
const MOST_SIGNS = 200;

type Row = Record<string, unknown>;

const short = (value: unknown): unknown =>
  typeof value === 'string' && value.length > MOST_SIGNS ? `${value.slice(0, MOST_SIGNS)}…` : value;

/**
 * What a transaction under way has changed in a row, as `{ column: [before, after] }` in JSON; empty where it is new, or
 * the same. What was before is read beside the transaction, where it is not seen yet.
 */
export async function changedIn(trx: Knex, entity: string, id: number): Promise<string> {
  if (!EDITED.has(entity)) return '';
  const file = trx.client.connectionSettings.filename as string;
  const beside = new Database(file, { readonly: true, fileMustExist: true });
  let before: Row | undefined;
  try {
    before = beside.prepare(`select * from "${entity}" where id = ?`).get(id) as Row | undefined;
  } finally {
    beside.close();
  }
  if (!before) return '';
  const after = (await trx(entity).where({ id }).first()) as Row | undefined;
  const pairs = Object.entries(before)
    .filter(([column, was]) => column !== 'version' && was !== (after ? after[column] : null))
    .map(([column, was]) => [column, [short(was), short(after ? after[column] : null)]]);
  return pairs.length > 0 ? JSON.stringify(Object.fromEntries(pairs)) : '';
}

/** What the chain shows. */
export interface ChainSays {
  entries: number;
  /** Entries whose contents were erased since, as names are. */
  erased: number;
  /** The first entry that is not as it was written, or before which one is gone that did not go for its age. */
  brokenAt: number | null;
  /** When the first of the copies was made that have entries which are not here any more, in ms. */
  lostSince: number | null;
  /** The hash of the last entry: written down elsewhere, it shows later that nothing before it was changed. */
  head: string;
}

/** What stands where an entry's contents were erased; the hash of what they were stays. */
export const ERASED = '{"erased":true}';

/** The entry that stands for those that went for their age: through which one, how many, and the hash of the last. */
export const ENDED = 'audit.ended';
const Ended = z.object({ through: z.int(), entries: z.int(), hash: z.string() });
const endedIn = columnOf<z.infer<typeof Ended>>('what went of the log', Ended);

/**
 * Writes that entries will go for their age, within the transaction that begins to remove them: without this entry
 * whatever is taken off the front of the log shows.
 */
export async function addEnded(trx: Knex, now: number, ended: z.infer<typeof Ended>): Promise<void> {
  await addEntry(trx, {
    at: now,
    personId: NOBODY,
    action: ENDED,
    entity: 'none',
    entityId: 0,
    key: `${ENDED}/${ended.through}`,
    from: '',
    detail: JSON.stringify(ended),
    changed: '',
  });
}

/**
 * Reads the chain through, from the oldest entry that is kept. The first was either the very first, or those before it
 * went for their age, as an entry of the chain says.
 * @param anchors what copies of the log were when they were made, each with its instant in ms
 */
export async function readChain(db: Knex, anchors: readonly (Anchor & { at: number })[] = []): Promise<ChainSays> {
  const says: ChainSays = { entries: 0, erased: 0, brokenAt: null, lostSince: null, head: '' };
  let first: { id: number; prev_hash: string } | null = null;
  let endedThrough: z.infer<typeof Ended> = { through: 0, entries: 0, hash: '' };
  const missing = new Map(anchors.map((a) => [a.last, a]));
  let prev: string | null = null;
  for (let after = 0; ; ) {
    const rows = await db('audit').where('id', '>', after).orderBy('id').limit(2000);
    if (rows.length === 0) break;
    for (const row of rows) {
      first ??= row;
      const isErased = row.detail === ERASED;
      const holds =
        (prev === null || row.prev_hash === prev) &&
        row.hash === chainHash(row) &&
        (isErased || row.detail_hash === detailHash(row));
      if (!holds) says.brokenAt ??= row.id;
      else if (row.action === ENDED) {
        const ended = endedIn.read(row.detail);
        if (ended.through > endedThrough.through) endedThrough = ended;
      }
      if (missing.get(row.id)?.hash === row.hash) missing.delete(row.id);
      if (isErased) says.erased++;
      says.entries++;
      prev = row.hash;
      after = row.id;
    }
    says.head = prev ?? '';
    await new Promise((next) => setImmediate(next));
  }
  // Where the removing was broken off some are still there that may go.
  const front =
    first === null ||
    first.prev_hash === '' ||
    first.id <= endedThrough.through ||
    first.prev_hash === endedThrough.hash;
  if (!front) says.brokenAt ??= first?.id ?? null;
  const lost = [...missing.values()].filter((a) => a.last > endedThrough.through);
  says.lostSince = lost.length > 0 ? Math.min(...lost.map((a) => a.at)) : null;
  return says;
}
