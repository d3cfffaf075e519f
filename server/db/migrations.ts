import type { Knex } from 'knex';
import { tagKey } from '../../core/instruments/tag';

/**
 * The schema, oldest first. Instants are milliseconds since 1970 UTC (`_at`), days are ISO dates in the programme's
 * time zone (`_on`), lengths are mm, money is hundredths of the programme's currency.
 * History (change_record, string_entry, stock_move, job_answer, audit) is only ever added to; instrument_state,
 * the now_ columns and lot_balance are projections of it and can be made anew.
 */
const FIRST: Knex.Migration = {
  async up(db) {
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
};

/**
 * House methods in versions with their wording and own steps; kinds of jobs and departures; what strings are exposed to;
 * inspections; the cases of the fault desk.
 */
const TRADE: Knex.Migration = {
  async up(db) {
    await db.schema.createTable('method_version', (t) => {
      t.increments('id');
      t.string('family').notNullable();
      t.integer('version').notNullable();
      t.text('house').notNullable();
      t.integer('person_id').references('person.id');
      t.bigInteger('at');
      t.string('why').notNullable();
      t.unique(['family', 'version']);
    });
    for (const row of await db('house_method')) {
      const method = { windsPlain: null, ...JSON.parse(row.method) };
      await db('method_version').insert({
        family: row.family,
        version: 1,
        house: JSON.stringify({ method, wording: {}, steps: [] }),
        why: '',
      });
    }
    await db.schema.dropTable('house_method');
    await db.schema.alterTable('job', (t) => {
      t.text('method');
      t.integer('method_version');
      t.text('departure');
    });
    await db.schema.alterTable('place', (t) => t.string('climate').notNullable().defaultTo('even'));
    await db.schema.alterTable('instrument', (t) => t.string('player').notNullable().defaultTo('average'));
    await db.schema.alterTable('instrument_position', (t) => t.float('nut_slot_mm'));
    await db.schema.alterTable('product', (t) => {
      t.boolean('coated').notNullable().defaultTo(false);
      t.boolean('hex_core').notNullable().defaultTo(false);
      t.boolean('flat_wound').notNullable().defaultTo(false);
      t.float('winding_mm');
    });
    await db.schema.createTable('inspection', (t) => {
      t.increments('id');
      t.integer('instrument_id').notNullable().references('instrument.id');
      t.integer('record_id').notNullable().references('change_record.id');
      t.string('on_day').notNullable();
      t.text('answers').notNullable();
      t.integer('score').notNullable();
      t.string('verdict').notNullable();
      t.string('because').notNullable();
      t.index(['instrument_id', 'id']);
    });
    await db.schema.createTable('fault_case', (t) => {
      t.increments('id');
      t.integer('instrument_id').notNullable().references('instrument.id');
      t.integer('person_id').notNullable().references('person.id');
      t.bigInteger('at').notNullable();
      t.string('on_day').notNullable();
      t.string('symptom').notNullable();
      t.integer('number');
      t.string('cause').notNullable();
      t.text('next').notNullable();
      t.text('note').notNullable();
      t.integer('job_id').references('job.id');
      t.string('status').notNullable();
      t.integer('closed_by').references('person.id');
      t.bigInteger('closed_at');
      t.integer('version').notNullable().defaultTo(1);
      t.index(['instrument_id', 'status']);
    });
    // A visit may come from the fault desk, without a change before it.
    await db.schema.alterTable('follow_up', (t) => t.setNullable('record_id'));
  },
  async down() {
    throw new Error('Versions and cases cannot be put back into the schema before: restore a backup instead.');
  },
};

/** What retune visits found: how flat each string had gone since it was last at pitch. */
const RETUNES: Knex.Migration = {
  async up(db) {
    await db.schema.createTable('retune_reading', (t) => {
      t.increments('id');
      t.integer('instrument_id').notNullable().references('instrument.id');
      t.integer('follow_up_id').references('follow_up.id');
      t.integer('number').notNullable();
      t.float('flat_cents').notNullable();
      t.integer('person_id').notNullable().references('person.id');
      t.bigInteger('at').notNullable();
      t.index(['instrument_id', 'at']);
    });
  },
  async down(db) {
    await db.schema.dropTable('retune_reading');
  },
};

/**
 * Batches at the bench; when an answer was given, which may be before it arrived; strings lost on the way, taken from the
 * shelf at once; minutes by phase; what the count of parts came to.
 */
const BATCHES: Knex.Migration = {
  async up(db) {
    await db.schema.createTable('batch', (t) => {
      t.increments('id');
      t.integer('place_id').notNullable().references('place.id');
      t.integer('opened_by').notNullable().references('person.id');
      t.bigInteger('opened_at').notNullable();
    });
    await db.schema.alterTable('job', (t) => {
      // No foreign key on a column that is added: SQLite would make the table anew, which its rows forbid.
      t.integer('batch_id');
      t.integer('batch_place');
      t.index(['batch_id']);
    });
    await db.schema.alterTable('job_answer', (t) => t.bigInteger('given_at'));
    await db.schema.createTable('job_loss', (t) => {
      t.increments('id');
      t.integer('job_id').notNullable().references('job.id');
      t.integer('number').notNullable();
      t.integer('product_id').notNullable().references('product.id');
      t.integer('lot_id').notNullable().references('lot.id');
      t.integer('place_id').notNullable().references('place.id');
      t.boolean('half').notNullable();
      t.integer('cost_cents').notNullable();
      t.bigInteger('at').notNullable();
      t.boolean('returned').notNullable().defaultTo(false);
      t.index(['job_id']);
    });
    await db.schema.alterTable('stock_move', (t) => t.integer('job_id'));
    await db.schema.createTable('job_phase', (t) => {
      t.integer('job_id').notNullable().references('job.id');
      t.string('phase').notNullable();
      t.float('minutes').notNullable();
      t.primary(['job_id', 'phase']);
    });
    await db.schema.alterTable('change_record', (t) => t.text('parts'));
  },
  async down() {
    throw new Error('Batches and losses cannot be put back into the schema before: restore a backup instead.');
  },
};

/**
 * Stock in full: value that follows every move, what is set aside for jobs, consumables with a least quantity,
 * substitutes, hybrids as recipes, suppliers with their prices, orders and deliveries, counts.
 */
const STOCK: Knex.Migration = {
  async up(db) {
    await db.schema.alterTable('stock_move', (t) => {
      t.integer('value_cents').notNullable().defaultTo(0);
      // Moves made together, by the key of the change that made them.
      t.string('op').notNullable().defaultTo('');
      t.index(['op']);
      t.index(['at']);
    });
    await db.schema.alterTable('lot_balance', (t) => t.integer('value_cents').notNullable().defaultTo(0));
    const unit = db('lot').select('unit_cost_cents');
    await db('stock_move').update({
      value_cents: db.raw('quantity * coalesce((?), 0)', [
        unit.clone().whereRaw('lot.id = stock_move.lot_id'),
      ]) as never,
    });
    await db('lot_balance').update({
      value_cents: db.raw('on_hand * coalesce((?), 0)', [
        unit.clone().whereRaw('lot.id = lot_balance.lot_id'),
      ]) as never,
    });
    await db.schema.alterTable('string_entry', (t) => {
      // Strings that broke on the way at this position, for learning how many do.
      t.integer('broken').notNullable().defaultTo(0);
      t.index(['broken', 'at']);
    });
    await db.schema.alterTable('lot', (t) => {
      t.integer('order_id');
      t.string('label').notNullable().defaultTo('');
    });
    await db.schema.alterTable('product', (t) => {
      // Consumables: what one of it is called, and how many there should always be.
      t.string('unit').notNullable().defaultTo('');
      t.integer('least').notNullable().defaultTo(0);
      t.integer('pack').notNullable().defaultTo(1);
      t.integer('supplier_id');
      t.string('retired_on');
    });
    // Wide on purpose: what strings due dates ask for is read from this index alone.
    await db.schema.alterTable('instrument_position', (t) =>
      t.index(['instrument_id', 'house_product_id', 'house_half', 'now_state'], 'instrument_position_house'),
    );
    await db.schema.createTable('recipe_part', (t) => {
      t.integer('hybrid_id').notNullable().references('product.id');
      t.integer('number').notNullable();
      t.integer('set_id').notNullable().references('product.id');
      t.primary(['hybrid_id', 'number']);
    });
    await db.schema.createTable('substitute', (t) => {
      t.integer('product_id').notNullable().references('product.id');
      t.integer('substitute_id').notNullable().references('product.id');
      t.integer('rank').notNullable();
      t.string('note').notNullable().defaultTo('');
      t.primary(['product_id', 'substitute_id']);
    });
    await db.schema.createTable('reservation', (t) => {
      t.increments('id');
      t.integer('job_id').notNullable().references('job.id');
      t.integer('lot_id').notNullable().references('lot.id');
      t.integer('place_id').notNullable().references('place.id');
      t.integer('quantity').notNullable();
      t.boolean('spare').notNullable().defaultTo(false);
      t.integer('person_id').notNullable().references('person.id');
      t.bigInteger('at').notNullable();
      t.string('reason').notNullable();
      t.index(['job_id']);
    });
    await db.schema.createTable('reserved', (t) => {
      t.integer('lot_id').notNullable().references('lot.id');
      t.integer('place_id').notNullable().references('place.id');
      t.integer('job_id').notNullable().references('job.id');
      t.boolean('spare').notNullable().defaultTo(false);
      t.integer('quantity').notNullable();
      t.primary(['lot_id', 'place_id', 'job_id', 'spare']);
      t.index(['job_id']);
      t.check('quantity > 0', [], 'reserved_positive');
    });
    await db.schema.createTable('supplier', (t) => {
      t.increments('id');
      t.string('name').notNullable().unique();
      t.integer('lead_days').notNullable();
      // Share of deliveries that come late, and by how many days at most.
      t.float('late_share').notNullable().defaultTo(0);
      t.integer('late_days').notNullable().defaultTo(0);
      t.integer('least_order_cents').notNullable().defaultTo(0);
      t.integer('order_cost_cents').notNullable().defaultTo(0);
      t.integer('version').notNullable().defaultTo(1);
    });
    await db.schema.createTable('price', (t) => {
      t.increments('id');
      t.integer('product_id').notNullable().references('product.id');
      t.integer('supplier_id').references('supplier.id');
      t.integer('cents').notNullable();
      t.string('on_day').notNullable();
      t.integer('order_id');
      t.index(['product_id', 'on_day']);
    });
    await db.schema.createTable('purchase_order', (t) => {
      t.increments('id');
      t.integer('supplier_id').notNullable().references('supplier.id');
      t.integer('place_id').notNullable().references('place.id');
      t.string('status').notNullable();
      t.integer('version').notNullable().defaultTo(1);
      t.integer('person_id').notNullable().references('person.id');
      t.bigInteger('made_at').notNullable();
      t.bigInteger('sent_at');
      t.string('expected_on');
      t.string('their_number').notNullable().defaultTo('');
      t.string('note').notNullable().defaultTo('');
      t.index(['status']);
    });
    await db.schema.createTable('order_line', (t) => {
      t.increments('id');
      t.integer('order_id').notNullable().references('purchase_order.id');
      t.integer('product_id').notNullable().references('product.id');
      t.integer('quantity').notNullable();
      t.integer('confirmed');
      t.integer('received').notNullable().defaultTo(0);
      t.integer('cents').notNullable();
      t.unique(['order_id', 'product_id']);
      t.index(['product_id']);
    });
    await db.schema.createTable('delivery', (t) => {
      t.increments('id');
      t.integer('order_id').notNullable().references('purchase_order.id');
      t.string('arrives_on').notNullable();
      t.text('lines').notNullable();
      t.string('status').notNullable();
      t.bigInteger('received_at');
      t.integer('person_id').references('person.id');
      t.text('differences').notNullable().defaultTo('[]');
      t.index(['status', 'arrives_on']);
    });
    await db.schema.createTable('stock_count', (t) => {
      t.increments('id');
      t.integer('place_id').notNullable().references('place.id');
      t.integer('product_id').notNullable().references('product.id');
      t.string('form').notNullable();
      t.integer('expected').notNullable();
      t.integer('counted').notNullable();
      t.string('reason').notNullable();
      t.integer('person_id').notNullable().references('person.id');
      t.bigInteger('at').notNullable();
      t.index(['place_id', 'product_id', 'at']);
    });
  },
  async down() {
    throw new Error('The ledger with values cannot be put back into the schema before: restore a backup instead.');
  },
};

/** Who is where when, who may do what, when instruments cannot be had, and published plans. */
const PLAN: Knex.Migration = {
  async up(db) {
    await db.schema.createTable('availability', (t) => {
      t.increments('id');
      t.integer('person_id').notNullable().references('person.id');
      t.integer('place_id').notNullable().references('place.id');
      // 1 is Monday, 7 Sunday.
      t.integer('weekday').notNullable();
      t.integer('minutes').notNullable();
      t.string('starts').notNullable();
      t.index(['person_id']);
    });
    await db.schema.createTable('availability_exception', (t) => {
      t.integer('person_id').notNullable().references('person.id');
      t.string('on_day').notNullable();
      t.string('why').notNullable();
      t.primary(['person_id', 'on_day']);
    });
    await db.schema.createTable('sign_off', (t) => {
      t.integer('person_id').notNullable().references('person.id');
      t.string('family').notNullable();
      t.integer('level').notNullable();
      t.primary(['person_id', 'family']);
    });
    await db.schema.createTable('instrument_busy', (t) => {
      t.increments('id');
      t.integer('instrument_id').notNullable().references('instrument.id');
      t.string('from_on').notNullable();
      t.string('to_on').notNullable();
      t.string('why').notNullable();
      // The calendar it came from; empty where somebody entered it.
      t.string('source').notNullable().defaultTo('');
      t.index(['instrument_id', 'to_on']);
      t.index(['source']);
    });
    await db.schema.createTable('plan', (t) => {
      t.increments('id');
      t.integer('person_id').notNullable().references('person.id');
      t.bigInteger('published_at').notNullable();
      t.float('cost').notNullable();
      t.float('bound');
    });
    await db.schema.createTable('plan_item', (t) => {
      t.integer('plan_id').notNullable().references('plan.id');
      t.integer('instrument_id').notNullable().references('instrument.id');
      t.integer('person_id').notNullable().references('person.id');
      t.integer('place_id').notNullable().references('place.id');
      t.string('on_day').notNullable();
      t.integer('minutes').notNullable();
      t.boolean('locked').notNullable();
      t.primary(['plan_id', 'instrument_id']);
      t.index(['plan_id', 'on_day']);
    });
  },
  async down(db) {
    for (const table of ['plan_item', 'plan', 'instrument_busy', 'sign_off', 'availability_exception', 'availability'])
      await db.schema.dropTable(table);
  },
};

/**
 * The plan in full: jobs of every kind, lessons with their hours, holidays, ways between places, weights, what is asked
 * for by hand, what the night proposes; a step more on the ladder of sign-offs.
 */
const WHOLE_PLAN: Knex.Migration = {
  async up(db) {
    await db.schema.createTable('plan_job', (t) => {
      t.integer('plan_id').notNullable().references('plan.id');
      t.integer('instrument_id').notNullable().references('instrument.id');
      t.string('kind').notNullable();
      t.integer('person_id').notNullable().references('person.id');
      t.integer('place_id').notNullable().references('place.id');
      t.string('on_day').notNullable();
      t.integer('minutes').notNullable();
      t.boolean('locked').notNullable();
      // Somebody who stands beside and learns.
      t.integer('learner_id').references('person.id');
      t.primary(['plan_id', 'instrument_id', 'kind']);
      t.index(['plan_id', 'on_day']);
    });
    for (const item of await db('plan_item')) await db('plan_job').insert({ ...item, kind: 'change' });
    await db.schema.dropTable('plan_item');
    await db.schema.alterTable('instrument_busy', (t) => {
      t.string('kind').notNullable().defaultTo('loan');
      // Local times, as "10:00", where it takes only part of a day.
      t.string('from_time');
      t.string('to_time');
    });
    await db.schema.alterTable('concert', (t) => t.string('source').notNullable().defaultTo(''));
    // Instruments that lie on the bench together; null: any number.
    await db.schema.alterTable('place', (t) => t.integer('bench_space'));
    await db.schema.createTable('holiday', (t) => {
      t.increments('id');
      t.string('from_on').notNullable();
      t.string('to_on').notNullable();
      t.string('name').notNullable();
      // Null: everywhere.
      t.integer('place_id').references('place.id');
      t.string('source').notNullable().defaultTo('');
      t.index(['to_on']);
    });
    await db.schema.createTable('travel', (t) => {
      t.integer('from_id').notNullable().references('place.id');
      t.integer('to_id').notNullable().references('place.id');
      t.integer('minutes').notNullable();
      t.primary(['from_id', 'to_id']);
    });
    await db.schema.createTable('plan_weights', (t) => {
      t.integer('id').primary();
      t.text('weights').notNullable();
      t.integer('version').notNullable().defaultTo(1);
    });
    await db.schema.createTable('plan_request', (t) => {
      t.increments('id');
      t.integer('instrument_id').notNullable().references('instrument.id');
      t.string('kind').notNullable();
      t.string('due_on').notNullable();
      t.string('why').notNullable();
      t.integer('person_id').notNullable().references('person.id');
      t.bigInteger('at').notNullable();
      t.string('status').notNullable();
      t.index(['status', 'due_on']);
    });
    await db.schema.createTable('plan_proposal', (t) => {
      t.increments('id');
      t.bigInteger('made_at').notNullable();
      t.string('on_day').notNullable();
      t.integer('based_on');
      t.float('cost').notNullable();
      t.float('cost_before').notNullable();
      t.float('bound');
      t.text('items').notNullable();
      t.string('status').notNullable();
      t.index(['status']);
    });
    // Between "not yet" and "under supervision" there is now "watched it".
    await db('sign_off').where('level', '>', 0).increment('level', 1);
  },
  async down() {
    throw new Error('The whole plan cannot be put back into the schema before: restore a backup instead.');
  },
};

/**
 * Tags are found in any case; records that stand are told from those taken back in one place; a supplier may be a
 * stand-in; what a record answered can be opened again with it.
 */
const STANDING: Knex.Migration = {
  async up(db) {
    await db.schema.alterTable('instrument', (t) => t.string('tag_key').notNullable().defaultTo(''));
    const taken = new Set<string>();
    for (const row of await db('instrument').orderBy('id').select('id', 'tag')) {
      let tag: string = row.tag;
      // Two that differ in case only could not both be found: the later one gets a number.
      for (let n = 2; taken.has(tagKey(tag)); n++) tag = `${row.tag}-${n}`;
      taken.add(tagKey(tag));
      await db('instrument')
        .where({ id: row.id })
        .update({ tag, tag_key: tagKey(tag) });
      if (tag !== row.tag) await db('instrument_state').where({ instrument_id: row.id }).update({ tag });
    }
    await db.schema.alterTable('instrument', (t) => t.unique(['tag_key']));
    await db.schema.createView('standing_record', (view) => {
      view.columns([
        'id',
        'job_id',
        'instrument_id',
        'kind',
        'at',
        'on_day',
        'person_id',
        'summary',
        'notes',
        'minutes',
        'parts',
      ]);
      view.as(
        db('change_record as r')
          .whereNot('r.kind', 'correction')
          .whereNotExists(
            db('change_record as c').whereRaw('c.instrument_id = r.instrument_id and c.corrects_id = r.id'),
          )
          .select(
            'r.id',
            'r.job_id',
            'r.instrument_id',
            'r.kind',
            'r.at',
            'r.on_day',
            'r.person_id',
            'r.summary',
            'r.notes',
            'r.minutes',
            'r.parts',
          ),
      );
    });
    await db.schema.alterTable('supplier', (t) => t.boolean('simulated').notNullable().defaultTo(false));
    // Until now every supplier was the stand-in; from now on it is the demo's alone.
    const programme = await db('programme').first();
    if (programme?.is_demo) await db('supplier').update({ simulated: true });
    await db.schema.alterTable('plan_request', (t) => t.integer('done_by_record_id'));
    await db.schema.alterTable('instrument', (t) => {
      // From nut to bridge, as measured on this instrument.
      t.float('noted_length_mm');
      t.string('noted_on');
    });
    await db.schema.alterTable('stock_move', (t) => t.index(['reverses_id']));
  },
  async down() {
    throw new Error('Tags and suppliers cannot be put back into the schema before: restore a backup instead.');
  },
};

/** What the card said a change takes, kept with what it took; the strings that a change of a due instrument is of. */
const WORK: Knex.Migration = {
  async up(db) {
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
};

/** When the shift of a planned job begins: somebody may have two at a place in a day. What a due instrument wants. */
const SHIFTS: Knex.Migration = {
  async up(db) {
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
  async down(db) {
    await db.schema.alterTable('plan_job', (t) => t.dropColumn('starts_at'));
    await db.schema.alterTable('instrument_state', (t) => t.dropColumn('due_work'));
  },
};

/**
 * Whether a record stands is kept with it, and so are the last job of an instrument and whether its change is of all
 * strings: with half a million records they are asked for on every page.
 */
const SPEED: Knex.Migration = {
  async up(db) {
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
};

export const MIGRATIONS: Record<string, Knex.Migration> = {
  '0001-first': FIRST,
  '0002-trade': TRADE,
  '0003-retunes': RETUNES,
  '0004-batches': BATCHES,
  '0005-stock': STOCK,
  '0006-plan': PLAN,
  '0007-whole-plan': WHOLE_PLAN,
  '0008-standing': STANDING,
  '0009-work': WORK,
  '0010-shifts': SHIFTS,
  '0011-speed': SPEED,
};
