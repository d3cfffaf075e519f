import type { Knex } from 'knex';

/** Who looked at what was handed on, and what was found. */
export default {
  async up(db: Knex) {
    await db.schema.alterTable('fault_case', (t) => {
      t.string('checked_by').notNullable().defaultTo('');
      t.text('found').notNullable().defaultTo('');
    });
  },
  async down(db: Knex) {
    await db.schema.alterTable('fault_case', (t) => t.dropColumns('checked_by', 'found'));
  },
} satisfies Knex.Migration;
