import type { Knex } from 'knex';

/**
 * House methods in versions with their wording and own steps; kinds of jobs and departures; what strings are exposed to;
 * inspections; the cases of the fault desk.
 */
export default {
  async up(db: Knex) {
    await db.schema.createTable('method_version', (t) => {
      t.increments('id');
      t.string('family').notNullable();
      t.integer('version').notNullable();
      t.text('house').notNullable();
      t.integer('person_id').references('person.id');
      t.bigInteger('at');
      t.string('why').notNullable();
      t.unique(['family', 'version']);
    });
    for (const row of await db('house_method')) {
      const method = { windsPlain: null, ...JSON.parse(row.method) };
      await db('method_version').insert({
        family: row.family,
        version: 1,
        house: JSON.stringify({ method, wording: {}, steps: [] }),
        why: '',
      });
    }
    await db.schema.dropTable('house_method');
    await db.schema.alterTable('job', (t) => {
      t.text('method');
      t.integer('method_version');
      t.text('departure');
    });
    await db.schema.alterTable('place', (t) => t.string('climate').notNullable().defaultTo('even'));
    await db.schema.alterTable('instrument', (t) => t.string('player').notNullable().defaultTo('average'));
    await db.schema.alterTable('instrument_position', (t) => t.float('nut_slot_mm'));
    await db.schema.alterTable('product', (t) => {
      t.boolean('coated').notNullable().defaultTo(false);
      t.boolean('hex_core').notNullable().defaultTo(false);
      t.boolean('flat_wound').notNullable().defaultTo(false);
      t.float('winding_mm');
    });
    await db.schema.createTable('inspection', (t) => {
      t.increments('id');
      t.integer('instrument_id').notNullable().references('instrument.id');
      t.integer('record_id').notNullable().references('change_record.id');
      t.string('on_day').notNullable();
      t.text('answers').notNullable();
      t.integer('score').notNullable();
      t.string('verdict').notNullable();
      t.string('because').notNullable();
      t.index(['instrument_id', 'id']);
    });
    await db.schema.createTable('fault_case', (t) => {
      t.increments('id');
      t.integer('instrument_id').notNullable().references('instrument.id');
      t.integer('person_id').notNullable().references('person.id');
      t.bigInteger('at').notNullable();
      t.string('on_day').notNullable();
      t.string('symptom').notNullable();
      t.integer('number');
      t.string('cause').notNullable();
      t.text('next').notNullable();
      t.text('note').notNullable();
      t.integer('job_id').references('job.id');
      t.string('status').notNullable();
      t.integer('closed_by').references('person.id');
      t.bigInteger('closed_at');
      t.integer('version').notNullable().defaultTo(1);
      t.index(['instrument_id', 'status']);
    });
    // A visit may come from the fault desk, without a change before it.
    await db.schema.alterTable('follow_up', (t) => t.setNullable('record_id'));
  },
  async down() {
    throw new Error('Versions and cases cannot be put back into the schema before: restore a backup instead.');
  },
} satisfies Knex.Migration;
