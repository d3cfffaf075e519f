import type { Knex } from 'knex';

/** What is kept for a time only is found by its age. */
export default {
  async up(db: Knex) {
    await db.schema.alterTable('idempotency', (t) => t.index(['at']));
    await db.schema.alterTable('audit', (t) => t.index(['at']));
  },
  async down(db: Knex) {
    await db.schema.alterTable('idempotency', (t) => t.dropIndex(['at']));
    await db.schema.alterTable('audit', (t) => t.dropIndex(['at']));
  },
} satisfies Knex.Migration;
