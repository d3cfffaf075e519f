import type { Knex } from 'knex';

/** Who may sign in and how, where they are signed in, benches that several share, and calendar addresses that are theirs. */
export default {
  async up(db: Knex) {
    await db.schema.createTable('account', (t) => {
      t.integer('person_id').primary().references('person.id');
      t.string('password_hash');
      t.string('pin_hash');
      // A code that is used once to choose a password; only its hash is kept.
      t.string('code_hash').unique();
      t.integer('code_until');
    });
    await db.schema.createTable('bench_device', (t) => {
      t.increments('id');
      t.string('token_hash').notNullable().unique();
      t.string('name').notNullable();
      t.integer('enrolled_by').notNullable().references('person.id');
      t.integer('at').notNullable();
      t.integer('revoked_at');
    });
    await db.schema.createTable('session', (t) => {
      t.increments('id');
      t.string('token_hash').notNullable().unique();
      // The token before the last rotation still counts for a moment: requests cross each other.
      t.string('before_hash').index();
      t.integer('before_until');
      t.integer('person_id').notNullable().references('person.id');
      t.integer('device_id').references('bench_device.id');
      t.integer('made_at').notNullable();
      t.integer('rotated_at').notNullable();
      t.integer('seen_at').notNullable();
      t.integer('until').notNullable();
      t.string('agent').notNullable().defaultTo('');
      t.index('person_id');
    });
    await db.schema.createTable('secret', (t) => {
      t.string('name').primary();
      t.string('value').notNullable();
    });
    await db.schema.createTable('feed', (t) => {
      t.increments('id');
      t.string('token').notNullable().unique();
      t.integer('person_id').references('person.id');
      t.integer('place_id').references('place.id');
      t.integer('made_by').notNullable().references('person.id');
      t.integer('at').notNullable();
      t.integer('revoked_at');
    });
  },
  async down(db: Knex) {
    for (const table of ['feed', 'secret', 'session', 'bench_device', 'account']) await db.schema.dropTable(table);
  },
} satisfies Knex.Migration;
