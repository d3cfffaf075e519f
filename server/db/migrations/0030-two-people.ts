import type { Knex } from 'knex';

/** Instruments that take two: one holds while the other works. */
export default {
  async up(db: Knex) {
    await db.schema.alterTable('instrument', (t) => {
      t.boolean('takes_two').notNullable().defaultTo(false);
    });
  },
  async down(db: Knex) {
    await db.schema.alterTable('instrument', (t) => t.dropColumn('takes_two'));
  },
} satisfies Knex.Migration;
