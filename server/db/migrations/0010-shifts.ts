import type { Knex } from 'knex';

/** When the shift of a planned job begins: somebody may have two at a place in a day. What a due instrument wants. */
export default {
  async up(db: Knex) {
    await db.schema.alterTable('plan_job', (t) => t.integer('starts_at'));
    await db.schema.alterTable('instrument_state', (t) => t.string('due_work').notNullable().defaultTo('change'));
    await db.raw(`
      update instrument_state set due_work = case
        when due_by = 'unknown-age' or (due_by = 'condition' and json_extract(due, '$.inspection') is null)
          then 'inspection'
        when julianday(due_on) - julianday(json_extract(due, '$.since')) >= 330 and json_array_length(to_change) =
          (select count(*) from instrument_position p where p.instrument_id = instrument_state.instrument_id)
          then 'service'
        else 'change' end`);
  },
  async down(db: Knex) {
    await db.schema.alterTable('plan_job', (t) => t.dropColumn('starts_at'));
    await db.schema.alterTable('instrument_state', (t) => t.dropColumn('due_work'));
  },
} satisfies Knex.Migration;
