import type { Knex } from 'knex';

const TOUCHES = [
  ['instrument', 'insert', 'new.id'],
  ['instrument', 'update', 'new.id'],
  ['instrument', 'delete', 'old.id'],
  ['instrument_position', 'insert', 'new.instrument_id'],
  ['instrument_position', 'update', 'new.instrument_id'],
  ['instrument_position', 'delete', 'old.instrument_id'],
] as const;

/**
 * Which instruments were written, one after the other: whoever keeps instruments in memory, in whatever thread, reads
 * those again and no others.
 */
export default {
  async up(db: Knex) {
    await db.raw(`create table instrument_touched (
      seq integer primary key autoincrement, instrument_id integer not null)`);
    for (const [table, when, id] of TOUCHES)
      await db.raw(`create trigger ${table}_touched_by_${when} after ${when} on ${table} begin
        insert into instrument_touched (instrument_id) values (${id}); end`);
  },
  async down(db: Knex) {
    for (const [table, when] of TOUCHES) await db.raw(`drop trigger ${table}_touched_by_${when}`);
    await db.schema.dropTable('instrument_touched');
  },
} satisfies Knex.Migration;
