import type { Knex } from 'knex';

const TABLES = ['person', 'place', 'programme'] as const;

/** People and places come and go, and are put right: each with a version; who has gone stays in the history. */
export default {
  async up(db: Knex) {
    for (const table of TABLES)
      await db.schema.alterTable(table, (t) => t.integer('version').notNullable().defaultTo(1));
    for (const table of ['person', 'place']) await db.schema.alterTable(table, (t) => t.string('retired_on'));
  },
  async down(db: Knex) {
    for (const table of ['person', 'place']) await db.schema.alterTable(table, (t) => t.dropColumn('retired_on'));
    for (const table of TABLES) await db.schema.alterTable(table, (t) => t.dropColumn('version'));
  },
} satisfies Knex.Migration;
