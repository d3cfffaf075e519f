import type { Knex } from 'knex';
import { endSessions } from '../access/sessions';
import { type Acting, change } from '../db/change';
import { notFound, refused } from '../errors';
import { refreshStates } from '../fleet/state';
import { initialsOf } from '../programme/manage';
import { programmeRow } from '../programme/programme';
import { ERASED } from './entries';

/**
 * Every column into which people write, and so a name: found there, taken along from there, erased there. A test says
 * when the schema has a column of text that stands neither here nor among those that hold no words of people.
 */
export const WRITTEN: Record<string, readonly string[]> = {
  availability_exception: ['why'],
  availability_once: ['why'],
  bench_device: ['name'],
  change_record: ['done', 'notes'],
  class: ['name'],
  concert: ['name'],
  fault_case: ['cause', 'named', 'next', 'note', 'checked_by', 'found'],
  follow_up: ['note'],
  holiday: ['name'],
  inspection: ['answers'],
  instrument: ['holder', 'note', 'facts', 'retired_why'],
  instrument_busy: ['why'],
  intake: ['file_name', 'rows', 'decisions', 'found', 'made'],
  intake_made: ['before'],
  intake_word: ['word', 'means'],
  interval_version: ['why'],
  job: ['departure', 'despite'],
  job_answer: ['said'],
  method_version: ['house', 'why'],
  person: ['name'],
  plan_proposal: ['items'],
  plan_request: ['why'],
  purchase_order: ['note', 'their_number'],
  record_note: ['text'],
  report: ['text'],
  reservation: ['reason'],
  said: ['text', 'who'],
  stock_count: ['reason'],
  stock_move: ['reason'],
  substitute: ['note'],
  supplier: ['name', 'email'],
};

/** Where a name stands. */
export interface Mention {
  table: string;
  column: string;
  id: number;
  text: string;
}

/** Rows that are looked through at once. */
const AT_ONCE = 20_000;
/** A name of fewer letters is in too many words. */
const LEAST_SIGNS = 3;

const escaped = (text: string): string => text.replace(/[.*+?^${}()|[\]\\]/g, '\\$&');
/** The name as words of their own, however it is written large or small. */
const asWords = (name: string): RegExp => new RegExp(`(?<![\\p{L}\\p{N}])${escaped(name)}(?![\\p{L}\\p{N}])`, 'giu');

function requireName(name: string): string {
  const whole = name.trim();
  if (whole.length < LEAST_SIGNS)
    throw refused(
      'too-short',
      'Enter the whole name',
      'Enter the whole name: at least three letters, as it is on record.',
    );
  return whole;
}

/**
 * What the database can look for itself: the longest stretch of a name in letters whose large and small forms are each
 * other's alone ("k" and "s" have a third), as `like` compares no others. Empty where there is none worth it.
 */
function plainStretch(name: string): string {
  const stretches = name.match(/[a-jl-rt-z0-9 .'-]+/gi) ?? [];
  const longest = stretches.reduce((a, b) => (b.length > a.length ? b : a), '');
  return longest.trim().length < 2 ? '' : longest;
}

async function* mentionsIn(db: Knex, table: string, columns: readonly string[], name: string): AsyncGenerator<Mention> {
  const words = asWords(name);
  const plain = plainStretch(name);
  const last = await db(table)
    .max({ at: db.raw('rowid') })
    .first();
  for (let after = -1; after < Number(last?.at ?? -1); after += AT_ONCE) {
    const rows = (await db(table)
      .where('rowid', '>', after)
      .where('rowid', '<=', after + AT_ONCE)
      .where((q) => {
        if (plain) for (const column of columns) q.orWhereLike(column, `%${plain}%`);
      })
      .orderBy('rowid')
      .select(db.raw('rowid as at'), ...columns)) as Record<string, unknown>[];
    for (const row of rows)
      for (const column of columns) {
        const text = row[column];
        if (typeof text !== 'string' || text === '') continue;
        words.lastIndex = 0;
        if (words.test(text)) yield { table, column, id: row.at as number, text };
      }
    await new Promise((next) => setImmediate(next));
  }
}

/** Everything that stands in the programme under a name, table by table; also what is kept of who did what. */
export async function* mentions(db: Knex, name: string): AsyncGenerator<Mention> {
  const whole = requireName(name);
  for (const [table, columns] of Object.entries(WRITTEN)) yield* mentionsIn(db, table, columns, whole);
  yield* mentionsIn(db, 'audit', ['detail', 'changed'], whole);
}

/**
 * Takes a name out of everything, and leaves the work that was done: who did it becomes a number, whom an instrument was
 * with becomes initials or nothing. Entries of who did what lose their contents, and the chain over them still holds.
 * @throws UserError `too-short`, `still-here` for somebody who has not left, `not-found`
 */
export async function eraseSubject(
  db: Knex,
  acting: Acting,
  p: { name: string; initials: boolean },
): Promise<{ erased: number }> {
  const name = requireName(p.name);
  // The entry of this very change must not keep what it erases.
  return change(db, acting, 'subject.erase', { letters: name.length, initials: p.initials }, async (trx) => {
    const here = await trx('person').whereRaw('lower(name) = ?', [name.toLowerCase()]).whereNull('retired_on').first();
    if (here)
      throw refused(
        'still-here',
        `${here.name} still works here`,
        'Someone who works here has to be marked as having left first. Nothing was erased.',
      );
    const words = asWords(name);
    const found: Mention[] = [];
    for await (const m of mentions(trx, name)) found.push(m);
    if (found.length === 0) throw notFound(`The name “${name}”`);
    const instead = p.initials ? initialsOf(name) : '[erased]';
    const touched = new Set<number>();
    for (const m of found) {
      if (m.table === 'audit') {
        await trx('audit').where({ id: m.id }).update({ detail: ERASED, changed: '' });
        continue;
      }
      if (m.table === 'person' && m.text.toLowerCase() === name.toLowerCase()) {
        await trx('person')
          .where({ id: m.id })
          .update({ name: `Person ${m.id}`, initials: p.initials ? initialsOf(name) : '–' });
        await trx('account').where({ person_id: m.id }).del();
        await endSessions(trx, m.id);
        await trx('feed').where({ person_id: m.id }).del();
        continue;
      }
      if (m.table === 'instrument') touched.add(m.id);
      await trx(m.table)
        .where('rowid', m.id)
        .update({ [m.column]: m.text.replace(words, instead) });
    }
    // What was answered to requests is kept for repeats only.
    for await (const m of mentionsIn(trx, 'idempotency', ['response'], name))
      await trx('idempotency')
        .where('rowid', m.id)
        .update({ response: m.text.replace(words, instead) });
    const programme = await programmeRow(trx);
    await refreshStates(trx, [...touched], { now: acting.now, timeZone: programme.time_zone });
    return {
      result: { erased: found.length },
      entity: 'none',
      entityId: 0,
      detail: { places: found.length, initials: p.initials },
    };
  });
}

/** What stands under a name, as one file of JSON for whoever it is of. @throws UserError `too-short` */
export function namesFile(db: Knex, name: string): AsyncGenerator<string> {
  return fileOf(db, requireName(name));
}

async function* fileOf(db: Knex, name: string): AsyncGenerator<string> {
  yield `{"name":${JSON.stringify(name)},"found":[`;
  let first = true;
  for await (const m of mentions(db, name)) {
    yield `${first ? '' : ','}\n${JSON.stringify(m)}`;
    first = false;
  }
  yield ']}\n';
}
