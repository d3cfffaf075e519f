import type { Knex } from 'knex';

/** What an answer says is kept as values; it was one text with a way of writing of its own for each outcome. */
export default {
  async up(db: Knex) {
    await db.schema.alterTable('job_answer', (t) => t.text('said').notNullable().defaultTo('{}'));
    // A reason after "all the same: ", a mistake with "@" and its string, "drop string cents", "noted: what = how".
    await db.raw(`
      update job_answer set said = case
        when outcome = 'done' and note like 'all the same: %' then json_object('passed', substr(note, 15))
        when outcome = 'done' and note <> '' and note not glob '*[^0-9]*' then json_object('choice', cast(note as integer))
        when outcome = 'skipped' then json_object('because', note)
        when outcome = 'trouble' and instr(note, '@') > 0 then json_object(
          'mistake', substr(note, 1, instr(note, '@') - 1), 'number', cast(substr(note, instr(note, '@') + 1) as integer))
        when outcome = 'trouble' then json_object('mistake', note)
        when outcome = 'measured' and note like 'drop % %' then json_object('drop', json_object(
          'number', cast(substr(note, 6) as integer),
          'cents', cast(substr(note, 6 + instr(substr(note, 6), ' ')) as real)))
        when outcome = 'measured' and instr(note, ' = ') > 8 then json_object('noted', json_object(
          'asked', substr(note, 8, instr(note, ' = ') - 8), 'said', substr(note, instr(note, ' = ') + 3)))
        when outcome = 'measured' then json_object('noted', json_object('asked', 'Noted', 'said', note))
        else '{}' end`);
    await db.schema.alterTable('job_answer', (t) => t.dropColumn('note'));
  },
  async down() {},
} satisfies Knex.Migration;
