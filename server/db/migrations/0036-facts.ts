import type { Knex } from 'knex';

/** Facts were kept under the sentence that asked for them; now under a name of their own. */
const WERE: [string, string][] = [
  ['String length from nut to bridge, and where the bridge’s feet stand', 'bridge-place'],
  ['Which way the bridge’s adjusting screws face', 'bridge-screws'],
  ['How many ball-end spacers are on each string', 'spacers'],
  ['The path of each string through the tailpiece', 'tail-path'],
  ['Which strings wrap over the top', 'wrapped-strings'],
  ['Where the pickup clip sits', 'pickup-clip'],
  ['Where the felt washer sits', 'felt-washer'],
  ['Which strings wear a sleeve on the bridge', 'sleeves'],
  ['Relative humidity and temperature of the room', 'room'],
  ['Photographs of the head, the bridge and the tail end', 'photographs'],
  ['String length, post diameter, gauge of each string', 'measured'],
  ['Cents flat for each string', 'flatness'],
];

async function rename(db: Knex, pairs: readonly (readonly [string, string])[]): Promise<void> {
  const names = new Map(pairs);
  const rows: { id: number; facts: string }[] = await db('instrument').whereNot({ facts: '{}' }).select('id', 'facts');
  for (const { id, facts } of rows) {
    const kept = Object.entries(JSON.parse(facts) as Record<string, unknown>);
    const now = JSON.stringify(Object.fromEntries(kept.map(([asked, fact]) => [names.get(asked) ?? asked, fact])));
    if (now !== facts) await db('instrument').where({ id }).update({ facts: now });
  }
  const cases = pairs.map(() => 'when ? then ?').join(' ');
  await db('job_answer')
    .where({ outcome: 'measured' })
    .whereRaw(`said ->> '$.noted.asked' in (${pairs.map(() => '?').join(', ')})`, [...names.keys()])
    .update({
      said: db.raw(`json_set(said, '$.noted.asked', case said ->> '$.noted.asked' ${cases} end)`, pairs.flat()),
    });
}

export default {
  up: (db: Knex) => rename(db, WERE),
  down: (db: Knex) =>
    rename(
      db,
      WERE.map(([asked, id]) => [id, asked] as const),
    ),
};
