import type { Knex } from 'knex';
import { untilWritten } from './written';

const kept = new WeakMap<Knex, Map<string, { version: string; value: Promise<unknown> }>>();

/** How somebody looks at things, and that they came; the programme is as it was. */
export const OF_ONE_PERSON: readonly string[] = ['person.horizon', 'person.desk', 'person.lead', 'session.begin'];

/**
 * What was computed stays until anything is changed: every change writes an audit entry, so the last of them tells. For
 * figures over the whole programme that several pages ask for.
 *
 * @param key what else it depends on, such as the day
 */
export async function untilChanged<T>(db: Knex, name: string, key: string, compute: () => Promise<T>): Promise<T> {
  return remembered(db, name, `${await lastChange(db)}/${key}`, compute);
}

/** The last entry of who did what that changed something: another number after each change. */
export const lastChange = (db: Knex): Promise<number> =>
  untilWritten(db, 'last-change', async () => {
    const last = await db('audit').whereNotIn('action', OF_ONE_PERSON).orderBy('id', 'desc').first('id');
    return last?.id ?? 0;
  });

/** What was computed stays for the day: for what is learned from long history and hardly moves. */
export const oncePerDay = <T>(db: Knex, name: string, today: string, compute: () => Promise<T>): Promise<T> =>
  remembered(db, name, today, compute);

/** What was computed stays while its version is the same; whoever asks while it is computed waits for the same. */
export async function remembered<T>(db: Knex, name: string, version: string, compute: () => Promise<T>): Promise<T> {
  const memory = kept.get(db) ?? new Map();
  kept.set(db, memory);
  const known = memory.get(name);
  if (known?.version === version) return known.value as Promise<T>;
  const value = compute();
  memory.set(name, { version, value });
  // What failed is computed anew.
  value.catch(() => {
    if (memory.get(name)?.value === value) memory.delete(name);
  });
  return value;
}
