import type { Knex } from 'knex';

/**
 * The schema, oldest first. Instants are milliseconds since 1970 UTC (`_at`), days are ISO dates in the programme's
 * time zone (`_on`), lengths are mm, money is hundredths of the programme's currency.
 * History (change_record, string_entry, stock_move, job_answer, audit) is only ever added to; instrument_state,
 * the now_ columns and lot_balance are projections of it and can be made anew.
 */
export default {
  async up(db: Knex) {
    await db.schema.createTable('programme', (t) => {
      t.integer('id').primary();
      t.string('name').notNullable();
      t.string('time_zone').notNullable();
      t.float('a4_hz').notNullable();
      t.bigInteger('created_at').notNullable();
      t.boolean('is_demo').notNullable();
    });
    await db.schema.createTable('place', (t) => {
      t.increments('id');
      t.string('name').notNullable().unique();
      t.boolean('is_store').notNullable();
    });
    await db.schema.createTable('person', (t) => {
      t.increments('id');
      t.string('name').notNullable();
      t.string('initials').notNullable();
      t.string('role').notNullable();
      t.integer('place_id').notNullable().references('place.id');
      t.string('horizon_on');
    });
    await db.schema.createTable('care_rule', (t) => {
      t.string('family').primary();
      t.string('school').notNullable();
      t.integer('calendar_days').notNullable();
      t.float('play_hours').notNullable();
      t.integer('never_over_days').notNullable();
    });
    await db.schema.createTable('house_method', (t) => {
      t.string('family').primary();
      t.text('method').notNullable();
    });
    await db.schema.createTable('product', (t) => {
      t.increments('id');
      t.string('sku').notNullable().unique();
      t.string('name').notNullable();
      t.string('kind').notNullable();
      t.string('family');
      t.float('gauge_mm');
      t.float('core_mm');
      t.string('core');
      t.string('wrap');
      t.float('mass_kg_per_m');
      t.float('length_mm');
      t.string('string_end');
      t.boolean('double_length').notNullable().defaultTo(false);
      t.integer('price_cents').notNullable();
      t.text('marks');
    });
    await db.schema.createTable('set_item', (t) => {
      t.integer('set_id').notNullable().references('product.id');
      t.integer('number').notNullable();
      t.integer('product_id').notNullable().references('product.id');
      t.primary(['set_id', 'number']);
      t.index(['product_id']);
    });
    await db.schema.createTable('instrument', (t) => {
      t.increments('id');
      t.string('tag').notNullable().unique();
      t.string('family').notNullable();
      t.string('size').notNullable();
      t.string('handedness').notNullable();
      t.float('scale_mm').notNullable();
      t.string('head').notNullable();
      t.string('tuner').notNullable();
      t.string('tail_end').notNullable();
      t.string('bridge').notNullable();
      t.string('string_end').notNullable();
      t.string('fingerboard').notNullable();
      t.text('extras').notNullable();
      t.float('post_diameter_mm').notNullable();
      t.float('post_room_mm').notNullable();
      t.float('post_spacing_mm').notNullable();
      t.integer('place_id').notNullable().references('place.id');
      t.string('holder').notNullable();
      t.integer('house_set_id').references('product.id');
      t.string('note').notNullable().defaultTo('');
      t.string('known_since_on').notNullable();
      t.integer('version').notNullable().defaultTo(1);
    });
    await db.schema.createTable('instrument_position', (t) => {
      t.integer('instrument_id').notNullable().references('instrument.id');
      t.integer('number').notNullable();
      t.integer('course').notNullable();
      t.string('note').notNullable();
      t.string('side').notNullable();
      t.integer('post_order').notNullable();
      t.float('nut_to_post_mm').notNullable();
      t.float('speaking_length_mm');
      t.integer('house_product_id').references('product.id');
      t.boolean('house_half').notNullable().defaultTo(false);
      t.string('now_state').notNullable().defaultTo('on');
      t.integer('now_entry_id');
      t.integer('now_product_id').references('product.id');
      t.boolean('now_half').notNullable().defaultTo(false);
      t.bigInteger('now_fitted_at');
      t.primary(['instrument_id', 'number']);
    });
    await db.schema.createTable('instrument_state', (t) => {
      t.integer('instrument_id').primary().references('instrument.id');
      t.string('tag').notNullable();
      t.integer('place_id').notNullable();
      t.string('place_name').notNullable();
      t.string('holder').notNullable();
      t.string('size').notNullable();
      t.string('family').notNullable();
      t.text('facts').notNullable();
      t.string('due_on').notNullable();
      t.string('due_by').notNullable();
      t.text('due').notNullable();
      t.text('strip').notNullable();
      t.boolean('broken').notNullable();
      t.bigInteger('ready_at');
      t.string('concert_on');
      t.string('changed_on');
      t.string('changed_what').notNullable();
      t.text('search').notNullable();
      // Wide on purpose: counts and searches over the whole fleet read this index alone, not the rows.
      t.index(['due_on', 'tag', 'place_id', 'family', 'broken', 'ready_at', 'search'], 'instrument_state_list');
      t.index(['place_id', 'due_on', 'tag']);
      t.index(['family', 'due_on', 'tag']);
      t.index(['tag']);
      t.index(['place_name', 'tag']);
      t.index(['family', 'tag']);
      t.index(['changed_on', 'tag']);
      t.index(['ready_at']);
      t.index(['concert_on']);
    });
    await db.schema.createTable('use_period', (t) => {
      t.increments('id');
      t.integer('instrument_id').notNullable().references('instrument.id');
      t.string('from_on').notNullable();
      t.string('to_on');
      t.float('hours_per_week').notNullable();
      t.string('source').notNullable();
      t.index(['instrument_id', 'from_on']);
    });
    await db.schema.createTable('report', (t) => {
      t.increments('id');
      t.integer('instrument_id').notNullable().references('instrument.id');
      t.integer('person_id').notNullable().references('person.id');
      t.bigInteger('at').notNullable();
      t.string('on_day').notNullable();
      t.string('kind').notNullable();
      t.text('numbers').notNullable();
      t.text('text').notNullable();
      t.integer('closed_by_record_id');
      t.index(['instrument_id', 'closed_by_record_id']);
      t.index(['closed_by_record_id', 'at']);
    });
    await db.schema.createTable('concert', (t) => {
      t.increments('id');
      t.string('name').notNullable();
      t.string('on_day').notNullable();
      t.integer('place_id').references('place.id');
      t.index(['on_day']);
    });
    await db.schema.createTable('concert_instrument', (t) => {
      t.integer('concert_id').notNullable().references('concert.id');
      t.integer('instrument_id').notNullable().references('instrument.id');
      t.primary(['concert_id', 'instrument_id']);
      t.index(['instrument_id']);
    });
    await db.schema.createTable('procedure_snapshot', (t) => {
      t.string('hash').primary();
      t.text('body').notNullable();
    });
    await db.schema.createTable('job', (t) => {
      t.increments('id');
      t.integer('instrument_id').notNullable().references('instrument.id');
      t.string('kind').notNullable();
      t.string('status').notNullable();
      t.string('procedure_hash').references('procedure_snapshot.hash');
      t.text('strings').notNullable();
      t.string('cursor');
      t.integer('opened_by').notNullable().references('person.id');
      t.bigInteger('opened_at').notNullable();
      t.integer('version').notNullable().defaultTo(1);
      t.index(['instrument_id', 'status']);
      t.index(['status']);
    });
    await db.schema.createTable('job_answer', (t) => {
      t.increments('id');
      t.integer('job_id').notNullable().references('job.id');
      t.string('step').notNullable();
      t.string('outcome').notNullable();
      t.text('note').notNullable();
      t.integer('person_id').notNullable().references('person.id');
      t.bigInteger('at').notNullable();
      t.string('key').notNullable().unique();
      t.index(['job_id', 'id']);
    });
    await db.schema.createTable('change_record', (t) => {
      t.increments('id');
      t.integer('job_id').notNullable().references('job.id');
      t.integer('instrument_id').notNullable().references('instrument.id');
      t.string('kind').notNullable();
      t.integer('corrects_id').references('change_record.id');
      t.bigInteger('at').notNullable();
      t.string('on_day').notNullable();
      t.integer('person_id').notNullable().references('person.id');
      t.string('summary').notNullable();
      t.text('notes').notNullable();
      t.float('minutes');
      t.index(['instrument_id', 'at']);
      t.index(['corrects_id']);
      t.index(['job_id']);
    });
    await db.schema.createTable('record_note', (t) => {
      t.increments('id');
      t.integer('record_id').notNullable().references('change_record.id');
      t.integer('person_id').notNullable().references('person.id');
      t.bigInteger('at').notNullable();
      t.text('text').notNullable();
      t.index(['record_id']);
    });
    await db.schema.createTable('lot', (t) => {
      t.increments('id');
      t.integer('product_id').notNullable().references('product.id');
      t.string('form').notNullable();
      t.boolean('sealed').notNullable();
      t.string('received_on').notNullable();
      t.integer('unit_cost_cents').notNullable();
      t.integer('from_lot_id').references('lot.id');
      t.index(['product_id', 'form']);
    });
    await db.schema.createTable('lot_balance', (t) => {
      t.integer('lot_id').notNullable().references('lot.id');
      t.integer('place_id').notNullable().references('place.id');
      t.integer('on_hand').notNullable();
      t.primary(['lot_id', 'place_id']);
      // The last guard: whatever a program does wrong, the shelf is never below nothing.
      t.check('on_hand >= 0', [], 'on_hand_not_negative');
    });
    await db.schema.createTable('string_entry', (t) => {
      t.increments('id');
      t.integer('record_id').notNullable().references('change_record.id');
      t.integer('instrument_id').notNullable().references('instrument.id');
      t.integer('number').notNullable();
      t.string('action').notNullable();
      t.integer('product_id').references('product.id');
      t.integer('lot_id').references('lot.id');
      t.boolean('half').notNullable();
      t.integer('cost_cents').notNullable();
      t.bigInteger('at').notNullable();
      t.index(['instrument_id', 'number', 'at']);
      t.index(['record_id']);
    });
    await db.schema.createTable('stock_move', (t) => {
      t.increments('id');
      t.integer('lot_id').notNullable().references('lot.id');
      t.integer('place_id').notNullable().references('place.id');
      t.string('kind').notNullable();
      t.integer('quantity').notNullable();
      t.integer('record_id').references('change_record.id');
      t.integer('person_id').notNullable().references('person.id');
      t.bigInteger('at').notNullable();
      t.string('reason').notNullable();
      t.integer('reverses_id').references('stock_move.id');
      t.index(['lot_id', 'place_id']);
      t.index(['record_id']);
    });
    await db.schema.createTable('follow_up', (t) => {
      t.increments('id');
      t.integer('instrument_id').notNullable().references('instrument.id');
      t.integer('record_id').notNullable().references('change_record.id');
      t.string('kind').notNullable();
      t.integer('day').notNullable();
      t.bigInteger('due_at').notNullable();
      t.string('due_on').notNullable();
      t.string('status').notNullable();
      t.integer('done_by').references('person.id');
      t.bigInteger('done_at');
      t.string('note').notNullable().defaultTo('');
      t.integer('cancelled_by_record_id');
      t.integer('version').notNullable().defaultTo(1);
      t.index(['status', 'due_on']);
      t.index(['instrument_id', 'status']);
      t.index(['record_id']);
    });
    await db.schema.createTable('audit', (t) => {
      t.increments('id');
      t.bigInteger('at').notNullable();
      t.integer('person_id').notNullable();
      t.string('action').notNullable();
      t.string('entity').notNullable();
      t.integer('entity_id').notNullable();
      t.string('idempotency_key').notNullable();
      t.text('detail').notNullable();
      t.index(['entity', 'entity_id']);
    });
    await db.schema.createTable('idempotency', (t) => {
      t.string('key').primary();
      t.string('action').notNullable();
      t.integer('person_id').notNullable();
      t.string('request_hash').notNullable();
      t.text('response').notNullable();
      t.bigInteger('at').notNullable();
    });
  },
  async down() {
    throw new Error('The first schema has nothing before it: restore a backup instead.');
  },
} satisfies Knex.Migration;
