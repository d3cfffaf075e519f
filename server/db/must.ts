import { Damaged } from './columns';

/**
 * A row that has to be there, because another refers to it or the programme begins with it.
 * @throws Damaged when it is not: the file was changed by other hands
 */
export function must<T>(row: T | undefined): T {
  if (row === undefined) throw new Damaged('A row that others lean on is not in the database.');
  return row;
}
