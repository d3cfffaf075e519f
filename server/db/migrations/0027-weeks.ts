import type { Knex } from 'knex';

/**
 * Parts of days on which somebody is away, hours on one day only, and what whoever stands in a session says of a job of
 * it: that it will not fit, or was done elsewhere.
 */
export default {
  async up(db: Knex) {
    // Empty: the whole day.
    await db.schema.alterTable('availability_exception', (t) => {
      t.string('from_time').notNullable().defaultTo('');
      t.string('to_time').notNullable().defaultTo('');
    });
    await db.schema.createTable('availability_once', (t) => {
      t.increments('id');
      t.integer('person_id').notNullable().references('person.id');
      t.integer('place_id').notNullable().references('place.id');
      t.string('on_day').notNullable();
      t.string('starts').notNullable();
      t.integer('minutes').notNullable();
      // In the place of the hours of that weekday, as when two people swap.
      t.boolean('instead').notNullable().defaultTo(false);
      t.string('why').notNullable().defaultTo('');
      // What was entered together goes together.
      t.string('together').notNullable();
      t.index(['on_day', 'person_id']);
    });
    await db.schema.alterTable('plan_job', (t) => {
      // 'no-room' or 'elsewhere'; empty while it stands as it was planned.
      t.string('aside').notNullable().defaultTo('');
      t.integer('aside_by');
      t.integer('aside_at');
    });
  },
  async down(db: Knex) {
    await db.schema.alterTable('plan_job', (t) => t.dropColumns('aside', 'aside_by', 'aside_at'));
    await db.schema.dropTable('availability_once');
    await db.schema.alterTable('availability_exception', (t) => t.dropColumns('from_time', 'to_time'));
  },
} satisfies Knex.Migration;
