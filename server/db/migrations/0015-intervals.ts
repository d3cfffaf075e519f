import type { Knex } from 'knex';

const OF = (scope: string, of: string | number) => `${scope}:${of}`;

/**
 * How long strings stay on, in versions with their reason: for a family, and where it differs for a set of strings or for
 * one instrument. What the families had becomes their first version.
 */
export default {
  async up(db: Knex) {
    await db.schema.createTable('interval_version', (t) => {
      t.increments('id');
      t.string('of_key').notNullable();
      t.integer('version').notNullable();
      t.string('scope').notNullable();
      t.string('family');
      t.integer('product_id').references('product.id');
      t.integer('instrument_id').references('instrument.id');
      // Taken back: what stands above holds again.
      t.boolean('withdrawn').notNullable().defaultTo(false);
      t.string('school').notNullable();
      t.integer('calendar_days').notNullable();
      t.float('play_hours').notNullable();
      t.integer('never_over_days').notNullable();
      t.string('why').notNullable().defaultTo('');
      t.integer('person_id').references('person.id');
      t.integer('at');
      t.unique(['of_key', 'version']);
    });
    for (const rule of await db('care_rule'))
      await db('interval_version').insert({
        of_key: OF('family', rule.family),
        version: 1,
        scope: 'family',
        family: rule.family,
        school: rule.school,
        calendar_days: rule.calendar_days,
        play_hours: rule.play_hours,
        never_over_days: rule.never_over_days,
      });
    await db.schema.dropTable('care_rule');
  },
  async down(db: Knex) {
    await db.schema.createTable('care_rule', (t) => {
      t.string('family').primary();
      t.string('school').notNullable();
      t.integer('calendar_days').notNullable();
      t.float('play_hours').notNullable();
      t.integer('never_over_days').notNullable();
    });
    const newest = new Map<string, Record<string, unknown>>();
    for (const row of await db('interval_version').where({ scope: 'family' }).orderBy('version'))
      newest.set(row.family as string, row);
    for (const [family, row] of newest)
      await db('care_rule').insert({
        family,
        school: row.school,
        calendar_days: row.calendar_days,
        play_hours: row.play_hours,
        never_over_days: row.never_over_days,
      });
    await db.schema.dropTable('interval_version');
  },
} satisfies Knex.Migration;
