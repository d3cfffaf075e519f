import type { Knex } from 'knex';
import { z } from 'zod';
import type { AuditQuery } from '../../contract/people';
import { instantOf, localDate } from '../clock';
import { columnOf } from '../db/columns';
import { OF_ONE_PERSON } from '../db/memo';
import { NOBODY } from './entries';
import { columnName, sayChange, sayDetails } from './words';

/** An entry as it is read: who did what, to what, from where, and what was otherwise before. */
export interface AuditEntry {
  id: number;
  at: number;
  by: string;
  action: string;
  says: string;
  entity: string;
  entityId: number;
  /** Its tag or name, where it has one. */
  called: string;
  from: string;
  /** Column, before, after. */
  changed: [string, string, string][];
  /** What was sent, a name and a value each. */
  detail: string[];
}

const pairs = columnOf<Record<string, [unknown, unknown]>>(
  'what was changed',
  z.record(z.string(), z.tuple([z.unknown(), z.unknown()])),
);

const sent = columnOf<unknown>('what was sent', z.unknown());

/** What nobody asks who did it: how somebody looks at things. */
const OF_THE_SCREEN = [...OF_ONE_PERSON.filter((action) => action !== 'session.begin'), 'job.answer'];

function filtered(db: Knex, q: AuditQuery, timeZone: string): Knex.QueryBuilder {
  const query = db('audit as a');
  if (q.who !== undefined) query.where('a.person_id', q.who);
  if (q.what === 'all') query.whereNotNull('a.id');
  else if (q.what === '') query.whereNotIn('a.action', OF_THE_SCREEN);
  else query.where('a.action', q.what);
  if (q.from) query.where('a.at', '>=', instantOf(q.from, 0, timeZone));
  if (q.to) query.where('a.at', '<', instantOf(q.to, 24, timeZone));
  if (q.tag)
    query
      .where('a.entity', 'instrument')
      .whereIn('a.entity_id', db('instrument').whereRaw('lower(tag) = ?', [q.tag.toLowerCase()]).select('id'));
  return query;
}

const shown = (value: unknown): string => (value === null || value === undefined ? '' : String(value));

/** Things that have a tag or a name, and where it stands. */
const CALLED: Record<string, string> = {
  instrument: 'tag',
  person: 'name',
  place: 'name',
  product: 'name',
  supplier: 'name',
  concert: 'name',
  class: 'name',
};

interface Row {
  id: number;
  at: number;
  person_id: number;
  name: string | null;
  action: string;
  entity: string;
  entity_id: number;
  from_where: string;
  changed: string;
  detail: string;
}

/** What an entry says, also where somebody has written into it what cannot be read: the log is for that case too. */
function readable<T, U>(read: () => T, say: (value: T) => U, otherwise: U): U {
  try {
    return say(read());
  } catch {
    return otherwise;
  }
}

async function entriesOf(db: Knex, query: Knex.QueryBuilder): Promise<AuditEntry[]> {
  const rows = (await query.leftJoin('person as p', 'p.id', 'a.person_id').select('a.*', 'p.name')) as Row[];
  const called = new Map<string, string>();
  for (const [entity, column] of Object.entries(CALLED)) {
    const ids: number[] = [...new Set<number>(rows.filter((r) => r.entity === entity).map((r) => r.entity_id))];
    if (ids.length === 0) continue;
    for (const row of await db(entity).whereIn('id', ids).select('id', `${column} as called`))
      called.set(`${entity}/${row.id}`, row.called);
  }
  return rows.map((r) => ({
    id: r.id,
    at: r.at,
    by: r.person_id === NOBODY ? 'someone' : (r.name ?? `person ${r.person_id}`),
    action: r.action,
    says: sayChange(r.action),
    entity: r.entity,
    entityId: r.entity_id,
    called: called.get(`${r.entity}/${r.entity_id}`) ?? '',
    from: r.from_where,
    changed: readable(
      () => (r.changed ? pairs.read(r.changed) : {}),
      (changed) =>
        Object.entries(changed).map(([column, [was, is]]): [string, string, string] => [
          columnName(column),
          shown(was),
          shown(is),
        ]),
      [['entry', '', 'cannot be read: it was altered outside Arvick']],
    ),
    detail: readable(() => sent.read(r.detail), sayDetails, ['cannot be read: it was altered outside Arvick']),
  }));
}

/** More are not counted: whoever looks for something asks more closely. */
export const MOST_COUNTED = 10_000;

/** Entries that a question asks for, the latest first, and how many there are, counted to `MOST_COUNTED` and one. */
export async function auditPage(
  db: Knex,
  q: AuditQuery,
  timeZone: string,
  most: number,
): Promise<{ entries: AuditEntry[]; all: number }> {
  const found = filtered(db, q, timeZone)
    .select(db.raw('1'))
    .limit(MOST_COUNTED + 1);
  const [counted] = await db.from(found.as('found')).count({ n: '*' });
  const entries = await entriesOf(
    db,
    filtered(db, q, timeZone)
      .orderBy('a.id', 'desc')
      .limit(most)
      .offset((q.page - 1) * most),
  );
  return { entries, all: Number(counted?.n ?? 0) };
}

/** Read so many at once for a file, so that others are answered meanwhile. */
const AT_ONCE = 1000;

/** The same as lines of JSON, the oldest first, as they are written in the chain. */
export async function* auditLines(db: Knex, q: AuditQuery, timeZone: string): AsyncGenerator<string> {
  for (let after = 0; ; ) {
    const rows = await filtered(db, q, timeZone).where('a.id', '>', after).orderBy('a.id').limit(AT_ONCE).select('a.*');
    if (rows.length === 0) return;
    for (const row of rows) {
      yield `${JSON.stringify({ ...row, on: localDate(row.at, timeZone) })}\n`;
      after = row.id;
    }
  }
}
