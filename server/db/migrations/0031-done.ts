import type { Knex } from 'knex';

const HALF = ', half strings';
const AS_USUAL = 'Done as usual, recorded without its steps.';

/** What a record says was done is kept as values; it was an English sentence. */
export default {
  async up(db: Knex) {
    await db.schema.dropView('standing_record');
    const unknown = JSON.stringify({ did: 'words', text: '' });
    await db.raw(`alter table change_record add column done text not null default '${unknown}'`);
    // What was said of half strings stood last.
    const base = `case when summary like '%${HALF}' then substr(summary, 1, length(summary) - ${HALF.length}) else summary end`;
    await db.raw(`
      update change_record set done = (select case
        when kind = 'look' and what like 'looked at: %' and exists (select 1 from inspection i where i.record_id = change_record.id)
          then (select case when json_valid(i.answers)
              then json_object('did', 'looked', 'answers', json(i.answers), 'score', i.score)
              else json_object('did', 'words', 'text', what) end
            from inspection i where i.record_id = change_record.id order by i.id limit 1)
        when kind = 'look' and what like 'stopped and referred to %'
          then json_object('did', 'referred', 'to', substr(what, 25))
        when kind = 'look' and what in ('found slack, brought back to pitch', 'retuned', 'bridge looked at', 'looked at')
          then json_object('did', 'visited', 'kind', (select j.kind from job j where j.id = change_record.job_id))
        when kind <> 'change' then json_object('did', 'words', 'text', what)
        when what = 'same strings, off and on again' then json_object('did', 'refit')
        when what = 'full set, mixed' then json_object('did', 'mixed')
        when what in ('new strings, entered later', 'about then: new strings, entered later')
          then json_object('did', 'past', 'all', json('true'), 'about', json(iif(what like 'about%', 'true', 'false')))
        when what in ('some new strings, entered later', 'about then: some new strings, entered later')
          then json_object('did', 'past', 'all', json('false'), 'about', json(iif(what like 'about%', 'true', 'false')))
        when what glob 'string [0-9]* taken off' and json_valid('[' || substr(what, 8, length(what) - 17) || ']')
          then json_object('did', 'off', 'numbers', json('[' || substr(what, 8, length(what) - 17) || ']'))
        when what like '% only' and instr(what, '"') = 0 and instr(what, '\\') = 0
            and not exists (select 1 from product where name = what)
          then json_object('did', 'some', 'strings',
            json('["' || replace(substr(what, 1, length(what) - 5), ', ', '","') || '"]'))
        else json_object('did', 'set', 'set', what) end
        from (select ${base} as what))`);
    await db.raw(
      `update change_record set done = json_set(done, '$.half', json('true')) where summary like '%${HALF}'`,
    );
    await db.raw(`
      update change_record set done = coalesce(
        (select o.done from change_record o where o.id = change_record.corrects_id), done)
      where kind = 'correction'`);
    await db.raw(`
      update change_record set done = json_set(done, '$.asUsual', json('true')),
        notes = trim(substr(notes, 1, length(notes) - ${AS_USUAL.length}))
      where kind = 'change' and notes like '%${AS_USUAL}'`);
    // What was missing is said from the parts that were counted.
    await db.raw(`
      update change_record set notes = coalesce(trim(replace(replace(notes, (
        select 'Not accounted for: ' || group_concat(p.value ->> '$.counted' || ' of ' || (p.value ->> '$.expected')
          || ', ' || (p.value ->> '$.part'), '; ') || '.'
        from json_each(change_record.parts) p where p.value ->> '$.counted' <> p.value ->> '$.expected'), ''),
        '  ', ' ')), notes)
      where json_valid(parts) and notes like '%Not accounted for: %'`);
    await db.raw('alter table change_record drop column summary');
    const columns = 'id job_id instrument_id kind at on_day person_id done notes minutes card_minutes parts'.split(' ');
    await db.raw(`
      create view standing_record as select ${columns.join(', ')} from change_record
      where kind <> 'correction' and taken_back = 0`);

    await db.raw('alter table instrument_state add column changed_done text');
    await db.raw(`
      update instrument_state set changed_done = (select r.done from standing_record r
        where r.instrument_id = instrument_state.instrument_id and r.kind = 'change' order by r.at desc, r.id desc limit 1)
      where changed_on is not null`);
    await db.raw('alter table instrument_state drop column changed_what');
    // Why is said from the answers.
    await db.raw('alter table inspection drop column because');
  },
  async down() {
    throw new Error('What was done cannot be put back into the schema before: restore a backup instead.');
  },
} satisfies Knex.Migration;
