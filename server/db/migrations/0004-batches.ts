import type { Knex } from 'knex';

/**
 * Batches at the bench; when an answer was given, which may be before it arrived; strings lost on the way, taken from the
 * shelf at once; minutes by phase; what the count of parts came to.
 */
export default {
  async up(db: Knex) {
    await db.schema.createTable('batch', (t) => {
      t.increments('id');
      t.integer('place_id').notNullable().references('place.id');
      t.integer('opened_by').notNullable().references('person.id');
      t.bigInteger('opened_at').notNullable();
    });
    await db.schema.alterTable('job', (t) => {
      // No foreign key on a column that is added: SQLite would make the table anew, which its rows forbid.
      t.integer('batch_id');
      t.integer('batch_place');
      t.index(['batch_id']);
    });
    await db.schema.alterTable('job_answer', (t) => t.bigInteger('given_at'));
    await db.schema.createTable('job_loss', (t) => {
      t.increments('id');
      t.integer('job_id').notNullable().references('job.id');
      t.integer('number').notNullable();
      t.integer('product_id').notNullable().references('product.id');
      t.integer('lot_id').notNullable().references('lot.id');
      t.integer('place_id').notNullable().references('place.id');
      t.boolean('half').notNullable();
      t.integer('cost_cents').notNullable();
      t.bigInteger('at').notNullable();
      t.boolean('returned').notNullable().defaultTo(false);
      t.index(['job_id']);
    });
    await db.schema.alterTable('stock_move', (t) => t.integer('job_id'));
    await db.schema.createTable('job_phase', (t) => {
      t.integer('job_id').notNullable().references('job.id');
      t.string('phase').notNullable();
      t.float('minutes').notNullable();
      t.primary(['job_id', 'phase']);
    });
    await db.schema.alterTable('change_record', (t) => t.text('parts'));
  },
  async down() {
    throw new Error('Batches and losses cannot be put back into the schema before: restore a backup instead.');
  },
} satisfies Knex.Migration;
