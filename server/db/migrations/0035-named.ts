import type { Knex } from 'knex';

/** What a case is about is kept as a value beside the words of those from before, which stay as they were said. */
export default {
  async up(db: Knex) {
    await db.raw('alter table fault_case add column named text');
  },
  async down(db: Knex) {
    await db.raw('alter table fault_case drop column named');
  },
};
