import type { Knex } from 'knex';

const kept = new WeakMap<Knex, Map<string, { version: string; value: unknown }>>();

/**
 * What was computed stays until anything is changed: every change writes an audit entry, so the last of them tells. For
 * figures over the whole programme that several pages ask for.
 *
 * @param key what else it depends on, such as the day
 */
export async function untilChanged<T>(db: Knex, name: string, key: string, compute: () => Promise<T>): Promise<T> {
  const last = await db('audit').max({ id: 'id' }).first();
  const version = `${last?.id ?? 0}/${key}`;
  const memory = kept.get(db) ?? new Map();
  kept.set(db, memory);
  const known = memory.get(name);
  if (known?.version === version) return known.value as T;
  const value = await compute();
  memory.set(name, { version, value });
  return value;
}
