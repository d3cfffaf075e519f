import { database } from '../db/connection';

/** Whether the data can be read. */
export async function canRead(): Promise<boolean> {
  try {
    await (await database()).raw('select 1 from programme limit 1');
    return true;
  } catch {
    return false;
  }
}
