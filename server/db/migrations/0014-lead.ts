import type { Knex } from 'knex';

/** How each person is led at the bench, where they have chosen. */
export default {
  async up(db: Knex) {
    await db.schema.alterTable('person', (t) => t.string('lead'));
  },
  async down(db: Knex) {
    await db.schema.alterTable('person', (t) => t.dropColumn('lead'));
  },
} satisfies Knex.Migration;
