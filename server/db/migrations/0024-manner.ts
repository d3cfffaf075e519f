import type { Knex } from 'knex';

/** How the programme writes money, days and lengths, its usual working day, and classes that come every week. */
export default {
  async up(db: Knex) {
    await db.schema.alterTable('programme', (t) => {
      t.string('currency').notNullable().defaultTo('');
      t.string('day_style').notNullable().defaultTo('day-first');
      t.integer('week_starts').notNullable().defaultTo(1);
      t.string('lengths').notNullable().defaultTo('mm');
      t.string('gauges').notNullable().defaultTo('thou');
      t.string('day_from').notNullable().defaultTo('09:00');
      t.string('day_to').notNullable().defaultTo('17:00');
    });
    await db.schema.createTable('class', (t) => {
      t.increments('id');
      t.string('name').notNullable();
      t.integer('place_id').references('place.id').nullable();
      // 1 is Monday, 7 Sunday.
      t.integer('weekday').notNullable();
      t.string('from_time').notNullable();
      t.string('to_time').notNullable();
      t.string('from_on').notNullable();
      t.string('to_on').notNullable();
    });
    await db.schema.createTable('class_instrument', (t) => {
      t.integer('class_id').notNullable().references('class.id').onDelete('CASCADE');
      t.integer('instrument_id').notNullable().references('instrument.id');
      t.primary(['class_id', 'instrument_id']);
      t.index('instrument_id');
    });
  },
  async down(db: Knex) {
    await db.schema.dropTable('class_instrument');
    await db.schema.dropTable('class');
    await db.schema.alterTable('programme', (t) =>
      t.dropColumns('currency', 'day_style', 'week_starts', 'lengths', 'gauges', 'day_from', 'day_to'),
    );
  },
} satisfies Knex.Migration;
