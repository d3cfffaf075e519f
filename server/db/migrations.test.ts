import { mkdtempSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import knex, { type Knex } from 'knex';
import { expect, it } from 'vitest';
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
