import fc from 'fast-check';
import type { Knex } from 'knex';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { DUE_FILTERS, FLEET_SORTS, type FleetQuery } from '../../contract/fleet';
import { addDays } from '../../core/dates';
import { acting, houseEntries, NOW, smallProgramme } from '../../tests/support/small';
import { finishJob } from '../bench/finish';
import { openJob } from '../bench/jobs';
import { UserError } from '../errors';
import { addInstrument } from './add';
import { type FleetRow, horizonData, listFleet } from './list';
import { reportTrouble } from './report';

let db: Knex;
let all: FleetRow[];
const TODAY = '2026-03-10';
const at = { today: TODAY, now: NOW, horizon: '2026-06-01' };
const everything: FleetQuery = {
  q: '',
  place: null,
  family: null,
  due: 'all',
  sort: 'tag',
  descending: false,
  offset: 0,
  limit: 200,
};

beforeAll(async () => {
  const small = await smallProgramme();
  db = small.db;
  await db('place').insert({ name: 'Annex', is_store: false });
  const families = ['ukulele', 'steel-acoustic', 'violin'] as const;
  for (let i = 0; i < 36; i++) {
    const family = families[i % 3] as (typeof families)[number];
    await addInstrument(db, acting(), {
      tag: `T-${String(i).padStart(2, '0')}`,
      family,
      size: family === 'ukulele' ? 'tenor' : '3/4',
      placeId: (i % 2) + 1,
      holder: i % 4 ? 'class set' : `loan, 100% of N_${i}`,
      houseSetId: null,
      use: [],
      note: '',
      knownSince: addDays(TODAY, (i % 7) * 20 - 40),
    });
  }
  await reportTrouble(db, acting(), { tag: 'T-05', kind: 'broken', numbers: [1], text: '' });
  const { jobId } = await openJob(db, acting(), { tag: 'AC-1' });
  await finishJob(db, acting(), {
    jobId,
    expectedVersion: 1,
    entries: await houseEntries(db, 'AC-1'),
    discard: [],
    notes: '',
    minutes: null,
  });
  all = (await listFleet(db, everything, at)).rows;
});
afterAll(() => db.destroy());

/** The same answer worked out row by row. */
function naive(q: FleetQuery): FleetRow[] {
  const places: Record<number, string> = { 1: 'Workshop', 2: 'Annex' };
  const words = q.q.toLowerCase().split(/\s+/).filter(Boolean);
  const rows = all.filter(
    (r) =>
      (q.place === null || r.place === places[q.place]) &&
      (q.family === null || r.family === q.family) &&
      words.every((w) => `${r.tag} ${r.family} ${r.place} ${r.holder}`.toLowerCase().includes(w)) &&
      {
        all: true,
        horizon: r.dueOn <= at.horizon,
        overdue: r.dueOn < TODAY,
        broken: r.broken,
        settling: r.readyAt !== null,
      }[q.due],
  );
  const key = (r: FleetRow) =>
    ({ due: r.dueOn, tag: '', instrument: r.family, place: r.place, changed: r.changedOn ?? '' })[q.sort];
  const sign = q.descending ? -1 : 1;
  const compare = (a: string, b: string) => (a < b ? -1 : a > b ? 1 : 0);
  return rows.sort((a, b) => sign * (compare(key(a), key(b)) || compare(a.tag, b.tag)));
}

const queries: fc.Arbitrary<FleetQuery> = fc.record({
  q: fc.constantFrom('', 't-1', 'annex', 'loan', '100%', 'n_4', 'class workshop', 'nothing at all', "o'clock"),
  place: fc.constantFrom(null, 1, 2),
  family: fc.constantFrom(null, 'ukulele' as const, 'violin' as const),
  due: fc.constantFrom(...DUE_FILTERS),
  sort: fc.constantFrom(...FLEET_SORTS),
  descending: fc.boolean(),
  offset: fc.integer({ min: 0, max: 12 }),
  limit: fc.integer({ min: 1, max: 20 }),
});

describe('the Fleet query', () => {
  it('filters, sorts, pages and counts as going through every row does', async () => {
    await fc.assert(
      fc.asyncProperty(queries, async (q) => {
        const page = await listFleet(db, q, at);
        const expected = naive(q);
        expect(page.matching).toBe(expected.length);
        expect(page.rows.map((r) => r.tag)).toEqual(expected.slice(q.offset, q.offset + q.limit).map((r) => r.tag));
        const scope = naive({ ...q, due: 'all' });
        expect(page.inScope).toBe(scope.length);
        expect(page.dueByHorizon).toBe(scope.filter((r) => r.dueOn <= at.horizon).length);
      }),
      { numRuns: 150 },
    );
  });

  it('gives each row once when paged through', async () => {
    const tags: string[] = [];
    for (let offset = 0; offset < all.length; offset += 7)
      tags.push(...(await listFleet(db, { ...everything, sort: 'due', offset, limit: 7 }, at)).rows.map((r) => r.tag));
    expect([...tags].sort()).toEqual(all.map((r) => r.tag));
  });
});

it('the horizon ruler counts everything due within its weeks, late ones on today', async () => {
  const data = await horizonData(db, at);
  const end = addDays(TODAY, data.weeks * 7);
  expect(data.due.reduce((sum, d) => sum + d.count, 0)).toBe(all.filter((r) => r.dueOn <= end).length);
  expect(data.due[0]).toMatchObject({ on: TODAY, count: all.filter((r) => r.dueOn <= TODAY).length });
});

it('a tag belongs to one instrument, and a size to its family', async () => {
  const add = (tag: string, size: string) =>
    addInstrument(db, acting(), {
      tag,
      family: 'cello',
      size,
      placeId: 1,
      holder: '',
      houseSetId: null,
      use: [],
      note: '',
    });
  await expect(add('T-01', '3/4')).rejects.toThrow(UserError);
  await expect(add('T-99', 'soprano')).rejects.toThrow('4/4, 3/4, 1/2, 1/4');
});
