import type { Knex } from 'knex';

/** Who is where when, who may do what, when instruments cannot be had, and published plans. */
export default {
  async up(db: Knex) {
    await db.schema.createTable('availability', (t) => {
      t.increments('id');
      t.integer('person_id').notNullable().references('person.id');
      t.integer('place_id').notNullable().references('place.id');
      // 1 is Monday, 7 Sunday.
      t.integer('weekday').notNullable();
      t.integer('minutes').notNullable();
      t.string('starts').notNullable();
      t.index(['person_id']);
    });
    await db.schema.createTable('availability_exception', (t) => {
      t.integer('person_id').notNullable().references('person.id');
      t.string('on_day').notNullable();
      t.string('why').notNullable();
      t.primary(['person_id', 'on_day']);
    });
    await db.schema.createTable('sign_off', (t) => {
      t.integer('person_id').notNullable().references('person.id');
      t.string('family').notNullable();
      t.integer('level').notNullable();
      t.primary(['person_id', 'family']);
    });
    await db.schema.createTable('instrument_busy', (t) => {
      t.increments('id');
      t.integer('instrument_id').notNullable().references('instrument.id');
      t.string('from_on').notNullable();
      t.string('to_on').notNullable();
      t.string('why').notNullable();
      // The calendar it came from; empty where somebody entered it.
      t.string('source').notNullable().defaultTo('');
      t.index(['instrument_id', 'to_on']);
      t.index(['source']);
    });
    await db.schema.createTable('plan', (t) => {
      t.increments('id');
      t.integer('person_id').notNullable().references('person.id');
      t.bigInteger('published_at').notNullable();
      t.float('cost').notNullable();
      t.float('bound');
    });
    await db.schema.createTable('plan_item', (t) => {
      t.integer('plan_id').notNullable().references('plan.id');
      t.integer('instrument_id').notNullable().references('instrument.id');
      t.integer('person_id').notNullable().references('person.id');
      t.integer('place_id').notNullable().references('place.id');
      t.string('on_day').notNullable();
      t.integer('minutes').notNullable();
      t.boolean('locked').notNullable();
      t.primary(['plan_id', 'instrument_id']);
      t.index(['plan_id', 'on_day']);
    });
  },
  async down(db: Knex) {
    for (const table of ['plan_item', 'plan', 'instrument_busy', 'sign_off', 'availability_exception', 'availability'])
      await db.schema.dropTable(table);
  },
} satisfies Knex.Migration;
