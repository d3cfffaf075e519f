import fc from 'fast-check';
import { expect, it } from 'vitest';
import { smallProgramme } from '../../tests/support/small';
import { folderOf, openDatabase, openReader } from '../db/connection';
import { loadMany } from './instruments';

it('whoever keeps instruments sees every write, by whatever connection, taken back or tidied away', async () => {
  const { db } = await smallProgramme();
  const other = await openDatabase(folderOf(db));
  const reader = openReader(folderOf(db));
  const ids: number[] = await db('instrument').pluck('id');
  const step = fc.record({
    do: fc.constantFrom('position', 'instrument', 'rolled-back', 'forget', 'ask', 'ask'),
    by: fc.constantFrom('db', 'other'),
    id: fc.constantFrom(...ids),
    n: fc.nat(1000),
  });
  await fc.assert(
    fc.asyncProperty(fc.array(step, { minLength: 3, maxLength: 20 }), async (steps) => {
      for (const s of [...steps, { do: 'ask', by: 'db', id: 1, n: 0 }] as typeof steps) {
        const by = s.by === 'db' ? db : other;
        if (s.do === 'position')
          await by('instrument_position').where({ instrument_id: s.id, number: 1 }).update({ now_fitted_at: s.n });
        else if (s.do === 'instrument')
          await by('instrument')
            .where({ id: s.id })
            .update({ note: `note ${s.n}` });
        else if (s.do === 'rolled-back')
          await by
            .transaction(async (trx) => {
              await trx('instrument')
                .where({ id: s.id })
                .update({ note: `never ${s.n}` });
              // What a transaction reads of its own writes is kept by nobody.
              expect((await loadMany(trx, [s.id]))[0]?.note).toBe(`never ${s.n}`);
              throw new Error('taken back');
            })
            .catch(() => {});
        else if (s.do === 'forget')
          await by('instrument_touched')
            .where('seq', '<', s.n * 3)
            .del();
        else {
          const read = (of: typeof db) => Promise.all([loadMany(of, ids), loadMany(of, ids.slice(0, 1))]);
          const anew = await db.transaction((trx) => loadMany(trx, ids));
          const byId = new Map(anew.map((i) => [i.id, i]));
          for (const of of [db, reader]) {
            const [all, one] = await read(of);
            expect(all).toEqual(ids.map((id) => byId.get(id)));
            expect(one).toEqual(all.slice(0, 1));
          }
        }
      }
    }),
    { numRuns: 60 },
  );
  for (const each of [db, other, reader]) await each.destroy();
});

it('what is kept cannot be changed by who reads it', async () => {
  const { db } = await smallProgramme();
  const [first] = await loadMany(db, [1]);
  expect(() => first?.positions.sort(() => 1)).toThrow(TypeError);
  expect(() => Object.assign(first ?? {}, { tag: 'other' })).toThrow(TypeError);
  await db.destroy();
});
