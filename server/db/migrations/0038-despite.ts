import type { Knex } from 'knex';

/** Why work was begun although the instrument was referred to somebody qualified; empty where it was not. */
export default {
  async up(db: Knex) {
    await db.raw("alter table job add column despite text not null default ''");
  },
  async down(db: Knex) {
    await db.raw('alter table job drop column despite');
  },
};
