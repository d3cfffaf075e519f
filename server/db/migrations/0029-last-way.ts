import type { Knex } from 'knex';

/** When the last way back leaves a place: a ferry, a bus, a gate that is locked. Empty: at any time. */
export default {
  async up(db: Knex) {
    await db.schema.alterTable('place', (t) => {
      t.string('last_way').notNullable().defaultTo('');
    });
  },
  async down(db: Knex) {
    await db.schema.alterTable('place', (t) => t.dropColumn('last_way'));
  },
} satisfies Knex.Migration;
