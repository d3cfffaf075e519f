import type { Knex } from 'knex';

/** What retune visits found: how flat each string had gone since it was last at pitch. */
export default {
  async up(db: Knex) {
    await db.schema.createTable('retune_reading', (t) => {
      t.increments('id');
      t.integer('instrument_id').notNullable().references('instrument.id');
      t.integer('follow_up_id').references('follow_up.id');
      t.integer('number').notNullable();
      t.float('flat_cents').notNullable();
      t.integer('person_id').notNullable().references('person.id');
      t.bigInteger('at').notNullable();
      t.index(['instrument_id', 'at']);
    });
  },
  async down(db: Knex) {
    await db.schema.dropTable('retune_reading');
  },
} satisfies Knex.Migration;
