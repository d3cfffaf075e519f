import type { Knex } from 'knex';

/**
 * Whether a record stands is kept with it, and so are the last job of an instrument and whether its change is of all
 * strings: with half a million records they are asked for on every page.
 */
export default {
  async up(db: Knex) {
    await db.schema.alterTable('change_record', (t) => t.boolean('taken_back').notNullable().defaultTo(false));
    await db.raw(`
      update change_record set taken_back = 1 where id in (
        select c.corrects_id from change_record c join change_record r on r.id = c.corrects_id
        where c.instrument_id = r.instrument_id)`);
    // Whoever writes a correction, what it corrects does not stand any more.
    await db.raw(`
      create trigger change_record_corrected after insert on change_record when new.corrects_id is not null
      begin
        update change_record set taken_back = 1 where id = new.corrects_id and instrument_id = new.instrument_id;
      end`);
    await db.schema.dropView('standing_record');
    const columns = 'id job_id instrument_id kind at on_day person_id summary notes minutes card_minutes parts'.split(
      ' ',
    );
    await db.raw(`
      create view standing_record as select ${columns.join(', ')} from change_record
      where kind <> 'correction' and taken_back = 0`);
    for (const [name, of] of [
      ['instrument', 'instrument_id, at desc, id desc'],
      ['instrument_day', 'instrument_id, on_day, kind'],
      ['day', 'on_day, kind, person_id, instrument_id, minutes, card_minutes'],
      ['person', 'person_id, kind, on_day, instrument_id'],
    ])
      await db.raw(`create index standing_record_${name} on change_record (${of}) where taken_back = 0`);
    await db.schema.alterTable('instrument_state', (t) => {
      t.integer('last_job_id');
      t.boolean('change_whole').notNullable().defaultTo(true);
      t.index(['due_by', 'due_on']);
    });
    await db.raw(`
      update instrument_state set
        last_job_id = (select r.job_id from standing_record r where r.instrument_id = instrument_state.instrument_id
          and r.kind = 'change' order by r.at desc, r.id desc limit 1),
        change_whole = json_array_length(to_change) >=
          (select count(*) from instrument_position p where p.instrument_id = instrument_state.instrument_id)`);
    await db.schema.alterTable('stock_move', (t) => {
      t.index(['lot_id', 'place_id', 'at']);
      t.index(['lot_id', 'id']);
      t.index(['kind', 'at', 'lot_id', 'quantity']);
    });
    await db.schema.alterTable('instrument_position', (t) => {
      t.index(['house_product_id', 'instrument_id']);
      t.index(['instrument_id', 'number', 'house_product_id', 'house_half'], 'instrument_position_asks');
    });
    await db.schema.alterTable('stock_count', (t) => t.index(['place_id', 'product_id', 'form', 'id']));
  },
  async down() {
    throw new Error('Which records stand cannot be put back into the schema before: restore a backup instead.');
  },
} satisfies Knex.Migration;
