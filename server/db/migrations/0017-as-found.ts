import type { Knex } from 'knex';

/** Photographs of instruments, whose files lie beside the database by their contents; and facts that last, by what was asked. */
export default {
  async up(db: Knex) {
    await db.schema.createTable('photo', (t) => {
      t.increments('id');
      t.string('hash').notNullable().index();
      t.integer('instrument_id').notNullable().references('instrument.id').index();
      t.integer('job_id').references('job.id').index();
      t.string('step').notNullable().defaultTo('');
      t.integer('bytes').notNullable();
      t.integer('person_id').notNullable().references('person.id');
      t.integer('at').notNullable();
      t.integer('removed_at');
    });
    await db.schema.alterTable('instrument', (t) => t.text('facts').notNullable().defaultTo('{}'));
  },
  async down(db: Knex) {
    await db.schema.alterTable('instrument', (t) => t.dropColumn('facts'));
    await db.schema.dropTable('photo');
  },
} satisfies Knex.Migration;
