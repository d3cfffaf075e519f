import type { Knex } from 'knex';
import { tagKey } from '../../../core/instruments/tag';

/**
 * Tags are found in any case; records that stand are told from those taken back in one place; a supplier may be a
 * stand-in; what a record answered can be opened again with it.
 */
export default {
  async up(db: Knex) {
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
} satisfies Knex.Migration;
