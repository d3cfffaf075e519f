import type { Knex } from 'knex';

/**
 * A list of values for `whereIn`, as one bound value however long it is: a statement takes only so many, and lists of
 * instruments or records grow with the programme.
 */
export const among = (db: Knex, values: readonly (number | string | null)[]): Knex.QueryBuilder =>
  // Of SQLite; another server has a function of its own for the elements of a JSON array.
  db.select('value').from(db.raw('json_each(?)', [JSON.stringify(values)]) as never);
