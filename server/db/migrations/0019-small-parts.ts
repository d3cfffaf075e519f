import type { Knex } from 'knex';

/** Which small part of instruments something that is used up is: pins, ball-end spacers; empty: none. */
export default {
  async up(db: Knex) {
    await db.schema.alterTable('product', (t) => t.string('small_part').notNullable().defaultTo(''));
  },
  async down(db: Knex) {
    await db.schema.alterTable('product', (t) => t.dropColumn('small_part'));
  },
} satisfies Knex.Migration;
