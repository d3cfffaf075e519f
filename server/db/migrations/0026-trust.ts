import type { Knex } from 'knex';
import { chainHash, detailHash } from '../../audit/chain';

/**
 * The programme's own address, codes on labels by which anybody may say that something is wrong, what they said; a chain
 * over who did what; how long names are kept.
 */
export default {
  async up(db: Knex) {
    await db.schema.alterTable('programme', (t) => {
      t.string('address').notNullable().defaultTo('');
      t.boolean('by_label').notNullable().defaultTo(false);
      // Who sees how fast and how well somebody works, beside themselves.
      t.string('performance').notNullable().defaultTo('desk');
      t.integer('said_days').notNullable().defaultTo(365);
    });
    await db.schema.createTable('label_link', (t) => {
      t.increments('id');
      t.string('token').notNullable().unique();
      t.integer('instrument_id').notNullable().references('instrument.id');
      t.integer('made_at').notNullable();
      t.integer('revoked_at');
      t.index('instrument_id');
    });
    await db.schema.createTable('said', (t) => {
      t.increments('id');
      t.integer('instrument_id').notNullable().references('instrument.id');
      t.integer('at').notNullable();
      t.string('on_day').notNullable();
      t.string('wrong').notNullable();
      t.text('numbers').notNullable();
      t.string('text').notNullable().defaultTo('');
      // A name or a class, as whoever said it wrote it.
      t.string('who').notNullable().defaultTo('');
      t.integer('person_id').references('person.id');
      t.string('hash');
      // What it became: a report or a case, or nothing.
      t.integer('report_id').references('report.id');
      t.integer('case_id').references('fault_case.id');
      t.integer('taken_by').references('person.id');
      t.integer('taken_at');
      t.integer('version').notNullable().defaultTo(1);
      t.index('instrument_id');
      t.index('hash');
      t.index('person_id');
    });
    await db.raw('create index said_waits on said (at) where taken_at is null');

    await db.schema.alterTable('account', (t) => {
      // How a district's own sign-in knows somebody: a name a coordinator entered, then what it never gives to another.
      t.string('district_name');
      t.string('district_subject');
    });
    await db.raw('create unique index account_district on account (district_name)');
    await db.raw('create unique index account_subject on account (district_subject)');

    // Who stood by, where somebody did it who may only under supervision; they say so themselves. By hand: Knex would
    // make the table anew, and a view stands on it.
    await db.raw('alter table change_record add column supervised_by integer references person (id)');
    await db.raw('alter table change_record add column supervised_at integer');

    await db.schema.alterTable('audit', (t) => {
      // The address a change came from, and the bench it was made at.
      t.string('from_where').notNullable().defaultTo('');
      // What was otherwise before, column by column.
      t.text('changed').notNullable().defaultTo('');
      t.string('detail_hash').notNullable().defaultTo('');
      t.string('prev_hash').notNullable().defaultTo('');
      t.string('hash').notNullable().defaultTo('');
    });
    await db.raw('create index audit_person on audit (person_id, id)');
    await db.raw('create index audit_action on audit (action, id)');
    let prev = '';
    for (let after = 0; ; ) {
      const rows = await db('audit').where('id', '>', after).orderBy('id').limit(2000);
      if (rows.length === 0) break;
      for (const row of rows) {
        const chained = { ...row, detail_hash: detailHash(row), prev_hash: prev };
        const hash = chainHash(chained);
        await db('audit').where({ id: row.id }).update({ detail_hash: chained.detail_hash, prev_hash: prev, hash });
        prev = hash;
        after = row.id;
      }
    }
  },
  async down(db: Knex) {
    for (const index of ['audit_person', 'audit_action']) await db.raw(`drop index ${index}`);
    await db.schema.alterTable('audit', (t) =>
      t.dropColumns('from_where', 'changed', 'detail_hash', 'prev_hash', 'hash'),
    );
    for (const index of ['account_district', 'account_subject']) await db.raw(`drop index ${index}`);
    await db.schema.alterTable('account', (t) => t.dropColumns('district_name', 'district_subject'));
    for (const column of ['supervised_by', 'supervised_at'])
      await db.raw(`alter table change_record drop column ${column}`);
    await db.schema.dropTable('said');
    await db.schema.dropTable('label_link');
    await db.schema.alterTable('programme', (t) => t.dropColumns('address', 'by_label', 'performance', 'said_days'));
  },
} satisfies Knex.Migration;
