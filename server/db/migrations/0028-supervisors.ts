import type { Knex } from 'knex';

/** Who stands by while somebody works under supervision: it is part of their day too. */
export default {
  async up(db: Knex) {
    await db.schema.alterTable('plan_job', (t) => {
      t.integer('supervisor_id');
    });
  },
  async down(db: Knex) {
    await db.schema.alterTable('plan_job', (t) => t.dropColumn('supervisor_id'));
  },
} satisfies Knex.Migration;
