import type { Knex } from 'knex';

/** What an instrument and its history are kept in, and the columns that name another row of them. */
const TABLES = [
  'instrument',
  'instrument_position',
  'use_period',
  'job',
  'change_record',
  'string_entry',
  'instrument_state',
  'follow_up',
];
const OWN = new Set([
  'id',
  'instrument_id',
  'record_id',
  'job_id',
  'corrects_id',
  'entry_id',
  'now_entry_id',
  'last_job_id',
]);
const STEP = 1_000_000;

/** Copies every instrument with its history `times` over, all at once: a large programme in a second or two. */
export async function copiesOf(db: Knex, times: number): Promise<void> {
  await db.raw('pragma foreign_keys = off');
  for (const table of TABLES) {
    const columns = Object.keys(await db(table).columnInfo());
    const value = (column: string): string => {
      if (OWN.has(column)) return `t."${column}" + n.value * ${STEP}`;
      if (column === 'tag') return "t.tag || '-' || n.value";
      if (column === 'tag_key') return "t.tag_key || '-' || n.value";
      return `t."${column}"`;
    };
    await db.raw(
      `with recursive n(value) as (select 1 union all select value + 1 from n where value < ${times})
       insert into "${table}" (${columns.map((c) => `"${c}"`).join(', ')})
       select ${columns.map(value).join(', ')} from "${table}" t join n`,
    );
  }
  await db.raw('pragma foreign_keys = on');
}
