import { mkdtempSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import type { Knex } from 'knex';
import { afterAll, beforeAll, expect, it } from 'vitest';
import { stringNumbers } from '../core/procedures/numbers';
import { previewJob } from '../server/bench/jobs';
import { houseStrings } from '../server/bench/procedure';
import { openDatabase } from '../server/db/connection';
import { loadInstrument, loadProducts } from '../server/fleet/instruments';
import { refreshInstrument } from '../server/fleet/state';
import { replayed, shelf } from '../tests/support/small';
import { concertDays, loadDemo, TIME_ZONE } from './load';

// A Saturday: the scenario must hold on any day of the week.
const NOW = Date.parse('2027-01-16T18:30:00Z');
let db: Knex;
beforeAll(async () => {
  db = await openDatabase(mkdtempSync(join(tmpdir(), 'arvick-demo-')));
  await loadDemo(db, NOW);
});
afterAll(() => db.destroy());

it('keeps a true ledger through fourteen months of use cases', async () => {
  expect(await replayed(db)).toEqual(await shelf(db));
  const strings = await db('string_entry').where({ action: 'fit' }).count({ n: '*' }).first();
  const used = await db('stock_move').where({ kind: 'use' }).sum({ n: 'quantity' }).first();
  const broken = await db('change_record').whereLike('notes', 'One snapped%').count({ n: '*' }).first();
  // Every string used is on an instrument, or broke on the way.
  expect(-Number(used?.n)).toBe(Number(strings?.n) + Number(broken?.n));
});

it('has a method for every instrument, with winds that hold and settle', async () => {
  const tags: string[] = await db('instrument').orderBy('tag').pluck('tag');
  const poor: string[] = [];
  for (const tag of tags) {
    const instrument = await loadInstrument(db, { tag });
    const { composed } = await previewJob(db, instrument);
    if ('gaps' in composed) {
      poor.push(`${tag}: ${composed.gaps.map((g) => g.needs).join()}`);
      continue;
    }
    const products = await loadProducts(
      db,
      instrument.positions.map((p) => p.houseProductId),
    );
    for (const string of houseStrings(instrument, products)) {
      const position = instrument.build.positions.find((p) => p.number === string.number);
      if (!position) continue;
      const n = stringNumbers(instrument.build, composed.procedure.method, position, string);
      // A house rule that misses by half a turn at most is kept.
      const { turns, verdict } = n.winds;
      const poorly = verdict === 'no-room' || turns < n.limits.least - 0.5 || turns > n.limits.most + 0.5;
      if (poorly || n.reach.spareMm < 0) poor.push(`${tag} ${position.note}: ${n.advice || n.reach.says}`);
    }
  }
  expect(tags.length).toBe(261);
  expect(poor).toEqual([]);
});

it('has projections that making them anew does not change', async () => {
  const pick = () => db('instrument_state').orderBy('instrument_id');
  const before = await pick();
  for (const row of before.filter((_, i) => i % 9 === 0))
    await refreshInstrument(db, row.instrument_id, { now: NOW, timeZone: TIME_ZONE });
  expect(await pick()).toEqual(before);
});

it('tells the story: some late, a tenth or two due by the concert, reports open, a hybrid, halves', async () => {
  const { lantern } = concertDays('2027-01-16');
  const count = async (where: (q: Knex.QueryBuilder) => void) =>
    Number((await db('instrument_state').modify(where).count({ n: '*' }).first())?.n);
  expect(await count((q) => q.where('due_on', '<=', lantern))).toBeGreaterThan(24);
  expect(await count((q) => q.where('due_on', '<=', lantern))).toBeLessThan(65);
  expect(await count((q) => q.where('due_by', 'concert'))).toBeGreaterThan(0);
  expect(await count((q) => q.where('broken', true))).toBe(2);
  expect(await db('report').whereNull('closed_by_record_id')).toHaveLength(5);
  const hybrid = await db('instrument_position as p')
    .join('instrument as i', 'i.id', 'p.instrument_id')
    .join('product as s', 's.id', 'p.house_product_id')
    .where('i.tag', 'SK-0701')
    .orderBy('p.number')
    .pluck('s.sku');
  expect(hybrid.map((sku) => sku.slice(0, 8))).toEqual([
    'SOL-0942',
    'SOL-0942',
    'SOL-0942',
    'SOL-1046',
    'SOL-1046',
    'SOL-1046',
  ]);
  expect(
    Number((await db('instrument_position').where({ now_half: true }).count({ n: '*' }).first())?.n),
  ).toBeGreaterThan(100);
  expect(await db('audit').where({ action: 'job.finish' }).count({ n: '*' }).first()).toEqual(
    await db('change_record').count({ n: '*' }).first(),
  );
});
