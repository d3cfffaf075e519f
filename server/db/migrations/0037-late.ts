import type { Knex } from 'knex';

/**
 * Which browser may deliver late what somebody did on which job. Kept on the server, so that it can be withdrawn; the
 * signing secret from before is gone, and with it every signed pass.
 */
export default {
  async up(db: Knex) {
    await db.schema.createTable('late_pass', (t) => {
      t.text('browser_hash').notNullable();
      t.integer('person_id').notNullable().references('person.id');
      t.integer('job_id').notNullable().references('job.id');
      t.integer('device_id').nullable().references('bench_device.id');
      t.bigInteger('until').notNullable();
      t.primary(['browser_hash', 'person_id', 'job_id']);
      t.index(['person_id']);
    });
    // On these browsers a person has signed in before: other people's wrong tries do not slow them there.
    await db.schema.createTable('known_browser', (t) => {
      t.text('browser_hash').notNullable();
      t.integer('person_id').notNullable().references('person.id');
      t.bigInteger('seen_at').notNullable();
      t.primary(['browser_hash', 'person_id']);
    });
    await db.schema.dropTable('secret');
  },
  async down(db: Knex) {
    await db.schema.createTable('secret', (t) => {
      t.string('name').primary();
      t.string('value').notNullable();
    });
    await db.schema.dropTable('known_browser');
    await db.schema.dropTable('late_pass');
  },
};
