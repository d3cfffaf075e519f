import type { Knex } from 'knex';

/** What the pages that most people keep open ask for, without reading what they do not show. */
export default {
  async up(db: Knex) {
    await db.raw('create index fault_case_open on fault_case (status, instrument_id)');
    await db.raw('create index instrument_here on instrument (family) where retired_on is null');
    await db.raw(
      'create index instrument_state_suspect on instrument_state (place_id, tag, instrument_id, broken, ready_at)',
    );
    await db.raw(
      'create index instrument_state_asks on instrument_state (due_on, due_by, change_whole, instrument_id, to_change)',
    );
    await db.raw('create index retune_reading_at on retune_reading (at, instrument_id)');
  },
  async down(db: Knex) {
    for (const name of [
      'fault_case_open',
      'instrument_here',
      'instrument_state_suspect',
      'instrument_state_asks',
      'retune_reading_at',
    ])
      await db.raw(`drop index ${name}`);
  },
} satisfies Knex.Migration;
