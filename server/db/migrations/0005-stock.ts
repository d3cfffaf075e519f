import type { Knex } from 'knex';

/**
 * Stock in full: value that follows every move, what is set aside for jobs, consumables with a least quantity,
 * substitutes, hybrids as recipes, suppliers with their prices, orders and deliveries, counts.
 */
export default {
  async up(db: Knex) {
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
} satisfies Knex.Migration;
