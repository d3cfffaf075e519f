import type { Knex } from 'knex';

/** What the card said a change takes, kept with what it took; the strings that a change of a due instrument is of. */
export default {
  async up(db: Knex) {
    await db.schema.alterTable('change_record', (t) => t.float('card_minutes'));
    await db.raw(`
      update change_record set card_minutes = (
        select json_extract(s.body, '$.minutes') from job j join procedure_snapshot s on s.hash = j.procedure_hash
        where j.id = change_record.job_id and json_array_length(j.strings) =
          (select count(*) from string_entry e where e.record_id = change_record.id and e.action = 'fit'))
      where kind = 'change'`);
    await db.schema.dropView('standing_record');
    const columns = 'id job_id instrument_id kind at on_day person_id summary notes minutes card_minutes parts'.split(
      ' ',
    );
    await db.schema.createView('standing_record', (view) => {
      view.columns(columns);
      view.as(
        db('change_record as r')
          .whereNot('r.kind', 'correction')
          .whereNotExists(
            db('change_record as c').whereRaw('c.instrument_id = r.instrument_id and c.corrects_id = r.id'),
          )
          .select(columns.map((c) => `r.${c}`)),
      );
    });
    await db.schema.alterTable('job', (t) => t.text('halves').notNullable().defaultTo('[]'));
    await db.raw(`
      update job set halves = (
        select json_group_array(p.number) from instrument_position p
        where p.instrument_id = job.instrument_id and p.house_half
          and p.number in (select value from json_each(job.strings)))
      where status = 'open'`);
    await db.schema.alterTable('instrument_state', (t) => t.text('to_change').notNullable().defaultTo('[]'));
    // All strings, unless it is due because some broke and it is known which.
    await db.raw(`
      update instrument_state set to_change = coalesce((
        select nullif(json_group_array(n), '[]') from (
          select p.number as n from instrument_position p
          where p.instrument_id = instrument_state.instrument_id and due_by = 'broken'
            and (p.now_state = 'missing' or p.number in (select value from json_each(instrument_state.due, '$.numbers')))
          order by p.number desc)), (
        select json_group_array(n) from (
          select p.number as n from instrument_position p where p.instrument_id = instrument_state.instrument_id
          order by p.number desc)), '[]')`);
  },
  async down() {},
} satisfies Knex.Migration;
