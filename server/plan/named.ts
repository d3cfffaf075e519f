import type { Knex } from 'knex';
import { tagKey } from '../../core/instruments/tag';
import { refused } from '../errors';

/**
 * The instruments that a list with commas between names: each by its tag, or all that are with somebody.
 * @throws UserError `who` with the words that are neither
 */
export async function instrumentsNamed(db: Knex, who: string): Promise<number[]> {
  const words = who
    .split(',')
    .map((w) => w.trim())
    .filter(Boolean);
  if (words.length === 0) return [];
  const byTag = new Map<string, number[]>();
  const byHolder = new Map<string, number[]>();
  for (const r of await db('instrument').whereNull('retired_on').select('id', 'tag_key', 'holder')) {
    byTag.set(r.tag_key, [r.id]);
    const holder = r.holder.toLowerCase();
    byHolder.set(holder, [...(byHolder.get(holder) ?? []), r.id]);
  }
  const found = words.map((w) => byTag.get(tagKey(w)) ?? byHolder.get(w.toLowerCase()) ?? []);
  const unknown = words.filter((_, i) => found[i]?.length === 0);
  if (unknown.length > 0)
    throw refused('who', 'No match', `No instrument, group or name matches: ${unknown.join(', ')}.`);
  return [...new Set(found.flat())];
}
