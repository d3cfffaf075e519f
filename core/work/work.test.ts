import fc from 'fast-check';
import { expect, it } from 'vitest';
import { addDays } from '../dates';
import { RETUNE_DAYS } from '../settling/readyBy';
import { benchRequest, type DueWork, dueWork, sayDueWork } from './due';
import { plainEntries } from './entries';
import { type OnRecord, workItems } from './items';
import { sayWhat } from './words';

const LOOKED = { first: '2026-03-10', until: '2026-04-06' };
const on = (...numbers: number[]) => numbers.map((number) => ({ number, state: 'on' as const }));
const due = (more: Partial<Parameters<typeof dueWork>[0]['due']>) => ({
  by: 'use' as const,
  numbers: [],
  on: '2026-03-20',
  since: '2025-11-01',
  inspection: null,
  ...more,
});

it('a due instrument wants one thing: a look, the strings that broke, a set, or a set with the service', () => {
  const kind = (more: Parameters<typeof due>[0], strings = on(1, 2, 3)) => {
    const work = dueWork({ due: due(more), strings });
    return [work.kind, work.numbers.join(), sayDueWork(work)];
  };
  expect(kind({})).toEqual(['change', '3,2,1', '']);
  expect(kind({ by: 'unknown-age', since: null })).toEqual(['inspection', '3,2,1', 'inspect first']);
  expect(kind({ by: 'condition' })[0]).toBe('inspection');
  const looked = { on: '2026-03-01', score: 20, verdict: 'change' as const, because: 'worn' };
  expect(kind({ by: 'condition', inspection: looked })[0]).toBe('change');
  expect(kind({ since: '2025-01-01' })).toEqual(['service', '3,2,1', 'with the yearly service']);
  expect(kind({ by: 'broken', numbers: [2] })).toEqual(['change', '2', 'only string 2']);
  // Strings off are changed too, and where nobody said which broke it is all.
  expect(kind({ by: 'broken', numbers: [1] }, [...on(1, 2), { number: 3, state: 'missing' as never }])[2]).toBe(
    'only strings 1 and 3',
  );
  expect(kind({ by: 'broken', numbers: [] })[1]).toBe('3,2,1');
  expect(benchRequest(dueWork({ due: due({ by: 'broken', numbers: [2] }), strings: on(1, 2) }))).toEqual({
    numbers: [2],
  });
});

const day = fc.integer({ min: -40, max: 60 }).map((n) => addDays(LOOKED.first, n));
const records: fc.Arbitrary<OnRecord> = fc.record({
  bridge: fc.constantFrom('fixed' as const, 'floating' as const),
  player: fc.constantFrom('light', 'average', 'hard'),
  cores: fc.constantFrom(['steel' as const], ['gut' as const, 'steel' as const], []),
  due: fc.option(
    fc.record({
      by: fc.constantFrom('use' as const, 'broken' as const, 'concert' as const, 'unknown-age' as const),
      on: day,
      work: fc.constantFrom<DueWork>(
        { kind: 'change', numbers: [2, 1], whole: true },
        { kind: 'change', numbers: [1], whole: false },
        { kind: 'service', numbers: [2, 1], whole: true },
        { kind: 'inspection', numbers: [2, 1], whole: true },
      ),
    }),
  ),
  requests: fc.array(
    fc.record({
      kind: fc.constantFrom('inspection' as const, 'service' as const, 'refit' as const),
      on: day,
      why: fc.constant('asked'),
    }),
    { maxLength: 4 },
  ),
  visits: fc.array(
    fc.record({
      kind: fc.constantFrom('retune' as const, 'bridge-check' as const, 'proper-look' as const),
      day: fc.constantFrom(...RETUNE_DAYS),
      on: day,
    }),
    { maxLength: 4 },
  ),
  concert: fc.option(fc.record({ name: fc.constant('Spring'), on: day })),
  lessons: fc.array(day, { maxLength: 3 }),
});

it('whatever is on record: each kind of work once, nothing forgotten, and a wall only within the days looked at', () => {
  fc.assert(
    fc.property(records, (r) => {
      const asked: unknown[] = [];
      const items = workItems(r, LOOKED, (request) => {
        asked.push(request);
        return 30;
      });
      expect(new Set(items.map((i) => i.kind)).size).toBe(items.length);
      for (const { kind } of [...r.requests, ...r.visits]) expect(items.map((i) => i.kind)).toContain(kind);
      if (r.due) expect(items.length).toBeGreaterThan(0);
      for (const i of items) {
        expect(i.request === null).toBe(i.visitDay !== null);
        expect(i.weight).toBeGreaterThan(0);
        expect(sayWhat(i, null).length).toBeGreaterThan(3);
        if (!i.wall) continue;
        expect(i.wall.on >= LOOKED.first && i.wall.on <= LOOKED.until).toBe(true);
        // New strings settle at least a day before what they are for.
        expect([r.concert?.on, ...r.lessons].some((d) => d !== undefined && d > (i.wall?.on ?? ''))).toBe(true);
      }
      // Visits follow changes alone, on the days of the schedule.
      for (const i of items)
        expect(i.visits).toEqual(
          ['change', 'service', 'refit'].includes(i.kind) ? expect.arrayContaining([...RETUNE_DAYS]) : [],
        );
      expect(asked.length).toBe(items.filter((i) => ['change', 'service', 'refit'].includes(i.kind)).length);
    }),
  );
});

it('a job that goes as it was meant to fits its own positions, and only those that have a house string', () => {
  const positions = [
    { number: 1, houseProductId: 7 },
    { number: 2, houseProductId: null },
    { number: 3, houseProductId: 9 },
  ];
  const actions = (kind: 'full-set' | 'refit', numbers: number[]) =>
    plainEntries(positions, { kind, numbers }).map((e) => e.action);
  expect(actions('full-set', [1, 2, 3])).toEqual(['fit', 'kept', 'fit']);
  expect(actions('full-set', [3])).toEqual(['kept', 'kept', 'fit']);
  expect(actions('refit', [1, 2, 3])).toEqual(['kept', 'kept', 'kept']);
});
