import { mkdtempSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import knex, { type Knex } from 'knex';
import { expect, it } from 'vitest';
import { besideOf } from '../bench/finishWords';
import * as columns from './columns';
import { openDatabase } from './connection';
import { MIGRATIONS } from './migrations';

const NAMES = Object.keys(MIGRATIONS).sort();

/** A database as an earlier version left it, with a row in every table. */
async function oldDatabase(
  upTo: number,
  more: (db: Knex) => Promise<void> = async () => {},
): Promise<{ folder: string; rows: Map<string, number> }> {
  const folder = mkdtempSync(join(tmpdir(), 'arvick-old-'));
  const db = knex({
    client: 'better-sqlite3',
    connection: { filename: join(folder, 'arvick.sqlite') },
    useNullAsDefault: true,
  });
  await db.migrate.latest({
    migrationSource: {
      getMigrations: async () => NAMES.slice(0, upTo),
      getMigrationName: (name: string) => name,
      getMigration: async (name: string) => MIGRATIONS[name] as Knex.Migration,
    },
  });
  const tables: { name: string }[] = await db('sqlite_master')
    .where({ type: 'table' })
    .whereNot('name', 'like', 'sqlite_%')
    .whereNot('name', 'like', 'knex_%')
    // Triggers write it.
    .whereNot('name', 'instrument_touched')
    .select('name');
  const rows = new Map<string, number>();
  for (const { name } of tables) {
    const columns: { name: string; type: string; notnull: number }[] = await db.raw(`pragma table_info(${name})`);
    const row = Object.fromEntries(
      columns.map((c) => [c.name, /int|float|bool|real/i.test(c.type) ? 1 : /text/i.test(c.type) ? '{}' : 'x']),
    );
    await db(name).insert(row);
    rows.set(name, 1);
  }
  await more(db);
  await db.destroy();
  return { folder, rows };
}

it.each(NAMES.slice(0, -1).map((name, i) => [name, i + 1] as const))(
  'a database as %s left it, with rows in every table, comes up to date and keeps them',
  async (_, upTo) => {
    const { folder, rows } = await oldDatabase(upTo);
    const db = await openDatabase(folder);
    expect(await db.raw('pragma foreign_key_check')).toEqual([]);
    for (const table of rows.keys()) {
      // The secret that signed passes is gone with them.
      if (table === 'secret') continue;
      // A house's method and interval became their first versions, an item of a plan a job of one.
      const name =
        { house_method: 'method_version', care_rule: 'interval_version', plan_item: 'plan_job' }[table] ?? table;
      expect(await db(name).count({ n: '*' }).first(), name).toMatchObject({ n: 1 });
    }
    await db.destroy();
  },
);

it('what an answer said in one text is kept as values', async () => {
  const said = [
    ['done', '', {}],
    ['done', '2', { choice: 2 }],
    ['done', 'all the same: A supervisor decided so', { passed: 'A supervisor decided so' }],
    ['skipped', 'Not dirty', { because: 'Not dirty' }],
    ['trouble', 'snaps@12', { mistake: 'snaps', number: 12 }],
    ['trouble', 'needs-repair', { mistake: 'needs-repair' }],
    ['measured', 'drop 11 40.5', { drop: { number: 11, cents: 40.5 } }],
    ['measured', 'noted: Screws = to the head = left', { noted: { asked: 'Screws', said: 'to the head = left' } }],
  ] as const;
  const { folder } = await oldDatabase(NAMES.indexOf('0013-answers'), async (db) => {
    const first = await db('job_answer').first();
    await db('job_answer').del();
    // As its columns were then.
    for (const [i, [outcome, note]] of said.entries())
      await db<Record<string, unknown>>('job_answer' as string).insert({
        ...first,
        id: i + 1,
        key: `k${i}`,
        outcome,
        note,
      });
  });
  const db = await openDatabase(folder);
  const rows = await db('job_answer').orderBy('id');
  expect(rows.map((row) => columns.said.read(row))).toEqual(said.map(([outcome, , now]) => ({ outcome, ...now })));
  await db.destroy();
});

it('what a record said was done is kept as values', async () => {
  const parts = JSON.stringify([{ part: 'old string', expected: 6, counted: 5 }]);
  const good = { sound: 1, look: 0, feel: 0, tune: 2, winding: 0 };
  const said: [string, string, Record<string, unknown>, string?, string?][] = [
    ['change', 'Solan bronze light', { did: 'set', set: 'Solan bronze light' }, 'E4 slipped', 'E4 slipped'],
    ['change', 'Solan bronze light, half strings', { did: 'set', set: 'Solan bronze light', half: true }],
    ['change', 'The only', { did: 'set', set: 'The only' }],
    ['change', 'full set, mixed, half strings', { did: 'mixed', half: true }],
    ['change', 'B3, E4 only', { did: 'some', strings: ['B3', 'E4'] }],
    ['change', 'string 6, 12 taken off', { did: 'off', numbers: [6, 12] }],
    ['change', 'same strings, off and on again', { did: 'refit' }],
    ['change', 'about then: some new strings, entered later', { did: 'past', all: false, about: true }],
    ['change', 'new strings, entered later', { did: 'past', all: true, about: false }],
    ['look', 'looked at: will not stay in tune, a little dull, 45 of 100', { did: 'looked', answers: good, score: 45 }],
    ['look', 'retuned', { did: 'visited', kind: 'retune' }],
    ['look', 'stopped and referred to Rask and sons', { did: 'referred', to: 'Rask and sons' }],
    ['look', 'something else', { did: 'words', text: 'something else' }],
    ['correction', 'taken back: Solan bronze light', { did: 'set', set: 'Solan bronze light' }],
    [
      'change',
      'Korrin set',
      { did: 'set', set: 'Korrin set', asUsual: true },
      'Quick. Not accounted for: 5 of 6, old string. Done as usual, recorded without its steps.',
      'Quick.',
    ],
  ];
  const { folder } = await oldDatabase(NAMES.indexOf('0031-done'), async (db) => {
    const as = (table: string) => db<Record<string, unknown>>(table);
    const first = await as('change_record').first();
    const look = await as('inspection').first();
    const job = await as('job').first();
    const product = await as('product').first();
    await db.raw('pragma foreign_keys = off');
    await as('change_record').del();
    await as('inspection').del();
    await as('product').insert({ ...product, id: 77, sku: 'only', name: 'The only' });
    await as('job').insert({ ...job, id: 9, kind: 'retune' });
    await as('inspection').insert({ ...look, id: 9, record_id: 10, answers: JSON.stringify(good), score: 45 });
    for (const [i, [kind, summary, , notes]] of said.entries())
      await as('change_record').insert({
        ...first,
        id: i + 1,
        kind,
        summary,
        job_id: 9,
        corrects_id: kind === 'correction' ? 1 : null,
        parts: notes?.includes('accounted') ? parts : null,
        notes: notes ?? '',
      });
  });
  const db = await openDatabase(folder);
  const rows = await db('change_record').orderBy('id');
  expect(rows.map((row) => columns.done.read(row.done))).toEqual(said.map(([, , now]) => now));
  expect(rows.map((row) => row.notes)).toEqual(said.map(([, , , , after]) => after ?? ''));
  expect(besideOf(rows.at(-1) as (typeof rows)[0])).toEqual([
    'Not accounted for: old string (5 of 6).',
    'Done the usual way; its steps were not recorded.',
  ]);
  await db.destroy();
});

it('why a move was written is kept as a value', async () => {
  const said: [string, string, string][] = [
    ['opened', 'opened', ''],
    ['cut in the middle', 'halved', ''],
    ['delivery', 'delivery', ''],
    ['to begin with', 'opening', ''],
    ['back to the shelf', 'back-to-shelf', ''],
    ['taken back', 'taken-back', ''],
    ['change taken back', 'change-taken-back', ''],
    ['not lost after all', 'not-lost', ''],
    ['on the shelf at the bench, not in the book', 'found-at-bench', ''],
    ['put in although the book had none', 'found-part', ''],
    ['left over, not kept', 'left-over', ''],
    ['saved from old strings', 'saved', ''],
    ['string 12 was lost on the way', 'lost', '12'],
    ['order 7', 'order', '7'],
    ['from Shelf of autumn.xlsx', 'list', 'Shelf of autumn.xlsx'],
    ['list taken back: Shelf.csv', 'list-taken-back', 'Shelf.csv'],
    ['fell into the tea', 'said', 'fell into the tea'],
    ['order ', 'said', 'order '],
    ['', 'said', ''],
  ];
  const { folder } = await oldDatabase(NAMES.indexOf('0034-reasons'), async (db) => {
    const as = (table: string) => db<Record<string, unknown>>(table);
    await db.raw('pragma foreign_keys = off');
    const first = await as('stock_move').first();
    await as('stock_move').del();
    for (const [i, [reason]] of said.entries()) await as('stock_move').insert({ ...first, id: i + 1, reason });
    await as('reservation').update({ reason: 'spare back, job finished' });
  });
  const db = await openDatabase(folder);
  const rows = await db('stock_move').orderBy('id');
  expect(rows.map((r) => [r.why, r.reason])).toEqual(said.map(([, ...now]) => now));
  expect(await db('reservation').pluck('reason')).toEqual(['job-finished']);
  await db.destroy();
});

it('what was noted of an instrument is kept under a name of its own, whatever the sentence that asks for it', async () => {
  const screws = 'Which way the bridge’s adjusting screws face';
  const pictures = 'Photographs of the head, the bridge and the tail end';
  const fact = { said: 'to the left', on: '2026-01-02', by: 'Ann' };
  const id: Record<string, unknown> = {};
  const { folder } = await oldDatabase(NAMES.indexOf('0036-facts'), async (db) => {
    const as = (table: string) => db<Record<string, unknown>>(table);
    const instrument = await as('instrument').first();
    await as('instrument')
      .where({ id: instrument?.id })
      .update({ facts: JSON.stringify({ [screws]: fact, [pictures]: fact, 'Something of our own': fact }) });
    const answer = await as('job_answer').first();
    await as('job_answer')
      .where({ id: answer?.id })
      .update({ outcome: 'measured', said: JSON.stringify({ noted: { asked: screws, said: 'x' } }) });
    Object.assign(id, { instrument: instrument?.id, answer: answer?.id });
  });
  const db = await openDatabase(folder);
  const kept = await db('instrument')
    .where({ id: id.instrument as number })
    .first();
  expect(Object.keys(JSON.parse(kept?.facts as string))).toEqual([
    'bridge-screws',
    'photographs',
    'Something of our own',
  ]);
  const answer = await db('job_answer')
    .where({ id: id.answer as number })
    .first();
  expect(JSON.parse(answer?.said as string)).toEqual({ noted: { asked: 'bridge-screws', said: 'x' } });
  await db.destroy();
});
