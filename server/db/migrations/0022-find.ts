import type { Knex } from 'knex';
import { findableText } from '../../../core/find/findable';

/** Instruments are found by what people call them, accents and case apart; a product has a version, as it can be edited. */
export default {
  async up(db: Knex) {
    await db.schema.alterTable('product', (t) => t.integer('version').notNullable().defaultTo(1));
    const rows = await db('instrument_state as s')
      .join('instrument as i', 'i.id', 's.instrument_id')
      .leftJoin('product as p', 'p.id', 'i.house_set_id')
      .select('s.instrument_id', 's.tag', 's.family', 's.size', 's.place_name', 's.holder', 'p.name as set_name');
    for (const r of rows)
      await db('instrument_state')
        .where({ instrument_id: r.instrument_id })
        .update({ search: findableText({ ...r, rest: [r.place_name, r.holder, r.set_name ?? ''] }) });
  },
  async down(db: Knex) {
    await db.schema.alterTable('product', (t) => t.dropColumn('version'));
  },
} satisfies Knex.Migration;
