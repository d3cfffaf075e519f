import type { Knex } from 'knex';

/**
 * Sheets that are taken over, with what was decided of them and what they made; what words meant. An instrument has its
 * maker and number, a day for its first look, and may leave; a set knows the size it is for.
 */
export default {
  async up(db: Knex) {
    await db.schema.alterTable('instrument', (t) => {
      for (const column of ['maker', 'model', 'serial', 'retired_why']) t.string(column).notNullable().defaultTo('');
      t.string('first_look_on');
      t.string('retired_on');
    });
    await db.schema.alterTable('product', (t) => t.string('size'));
    await db.schema.createTable('intake', (t) => {
      t.increments('id');
      t.integer('at').notNullable();
      t.integer('person_id').notNullable().references('person.id');
      t.string('file_name').notNullable();
      t.string('sheet').notNullable();
      t.string('subject').notNullable();
      t.string('status').notNullable().defaultTo('open');
      t.integer('version').notNullable().defaultTo(1);
      t.text('found').notNullable();
      t.text('heads').notNullable();
      t.text('rows').notNullable();
      t.text('decisions').notNullable();
      t.integer('applied_at');
      t.integer('applied_by').references('person.id');
      t.text('made').notNullable().defaultTo('{}');
    });
    await db.schema.createTable('intake_made', (t) => {
      t.increments('id');
      t.integer('intake_id').notNullable().references('intake.id');
      t.string('entity').notNullable();
      t.integer('entity_id').notNullable();
      t.integer('version');
      t.text('before');
      t.index(['intake_id', 'entity']);
    });
    await db.schema.createTable('intake_word', (t) => {
      t.string('word').primary();
      t.string('means').notNullable();
      t.integer('at').notNullable();
    });
    await db.schema.createTable('intake_profile', (t) => {
      t.string('heads_key').primary();
      t.string('subject').notNullable();
      t.text('fields').notNullable();
      t.string('day_style').notNullable();
    });
  },
  async down(db: Knex) {
    for (const table of ['intake_profile', 'intake_word', 'intake_made', 'intake']) await db.schema.dropTable(table);
    await db.schema.alterTable('product', (t) => t.dropColumn('size'));
    await db.schema.alterTable('instrument', (t) =>
      t.dropColumns('maker', 'model', 'serial', 'retired_why', 'first_look_on', 'retired_on'),
    );
  },
} satisfies Knex.Migration;
