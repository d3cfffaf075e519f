import type { Knex } from 'knex';

/**
 * The plan in full: jobs of every kind, lessons with their hours, holidays, ways between places, weights, what is asked
 * for by hand, what the night proposes; a step more on the ladder of sign-offs.
 */
export default {
  async up(db: Knex) {
    await db.schema.createTable('plan_job', (t) => {
      t.integer('plan_id').notNullable().references('plan.id');
      t.integer('instrument_id').notNullable().references('instrument.id');
      t.string('kind').notNullable();
      t.integer('person_id').notNullable().references('person.id');
      t.integer('place_id').notNullable().references('place.id');
      t.string('on_day').notNullable();
      t.integer('minutes').notNullable();
      t.boolean('locked').notNullable();
      // Somebody who stands beside and learns.
      t.integer('learner_id').references('person.id');
      t.primary(['plan_id', 'instrument_id', 'kind']);
      t.index(['plan_id', 'on_day']);
    });
    for (const item of await db('plan_item')) await db('plan_job').insert({ ...item, kind: 'change' });
    await db.schema.dropTable('plan_item');
    await db.schema.alterTable('instrument_busy', (t) => {
      t.string('kind').notNullable().defaultTo('loan');
      // Local times, as "10:00", where it takes only part of a day.
      t.string('from_time');
      t.string('to_time');
    });
    await db.schema.alterTable('concert', (t) => t.string('source').notNullable().defaultTo(''));
    // Instruments that lie on the bench together; null: any number.
    await db.schema.alterTable('place', (t) => t.integer('bench_space'));
    await db.schema.createTable('holiday', (t) => {
      t.increments('id');
      t.string('from_on').notNullable();
      t.string('to_on').notNullable();
      t.string('name').notNullable();
      // Null: everywhere.
      t.integer('place_id').references('place.id');
      t.string('source').notNullable().defaultTo('');
      t.index(['to_on']);
    });
    await db.schema.createTable('travel', (t) => {
      t.integer('from_id').notNullable().references('place.id');
      t.integer('to_id').notNullable().references('place.id');
      t.integer('minutes').notNullable();
      t.primary(['from_id', 'to_id']);
    });
    await db.schema.createTable('plan_weights', (t) => {
      t.integer('id').primary();
      t.text('weights').notNullable();
      t.integer('version').notNullable().defaultTo(1);
    });
    await db.schema.createTable('plan_request', (t) => {
      t.increments('id');
      t.integer('instrument_id').notNullable().references('instrument.id');
      t.string('kind').notNullable();
      t.string('due_on').notNullable();
      t.string('why').notNullable();
      t.integer('person_id').notNullable().references('person.id');
      t.bigInteger('at').notNullable();
      t.string('status').notNullable();
      t.index(['status', 'due_on']);
    });
    await db.schema.createTable('plan_proposal', (t) => {
      t.increments('id');
      t.bigInteger('made_at').notNullable();
      t.string('on_day').notNullable();
      t.integer('based_on');
      t.float('cost').notNullable();
      t.float('cost_before').notNullable();
      t.float('bound');
      t.text('items').notNullable();
      t.string('status').notNullable();
      t.index(['status']);
    });
    // Between "not yet" and "under supervision" there is now "watched it".
    await db('sign_off').where('level', '>', 0).increment('level', 1);
  },
  async down() {
    throw new Error('The whole plan cannot be put back into the schema before: restore a backup instead.');
  },
} satisfies Knex.Migration;
