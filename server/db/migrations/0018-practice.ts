import type { Knex } from 'knex';

/** Cards that were practised: how much of what was asked was right the first time. */
export default {
  async up(db: Knex) {
    await db.schema.createTable('practice', (t) => {
      t.increments('id');
      t.integer('person_id').notNullable().references('person.id').index();
      t.string('family').notNullable();
      t.string('on_day').notNullable();
      t.integer('at').notNullable();
      t.integer('asked').notNullable();
      t.integer('right').notNullable();
    });
  },
  async down(db: Knex) {
    await db.schema.dropTable('practice');
  },
} satisfies Knex.Migration;
