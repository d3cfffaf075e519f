import type { Knex } from 'knex';

/** Where a supplier is written to; one that nobody buys from any more is offered nowhere. */
export default {
  async up(db: Knex) {
    await db.schema.alterTable('supplier', (t) => {
      t.string('email').notNullable().defaultTo('');
      t.string('retired_on');
    });
  },
  async down(db: Knex) {
    await db.schema.alterTable('supplier', (t) => t.dropColumns('email', 'retired_on'));
  },
} satisfies Knex.Migration;
