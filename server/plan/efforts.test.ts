import fc from 'fast-check';
import { expect, it } from 'vitest';
import { addDays } from '../../core/dates';
import type { Done } from '../../core/work/done';
import { NOW, smallProgramme } from '../../tests/support/small';
import * as columns from '../db/columns';
import { folderOf, openReader } from '../db/connection';
import { must } from '../db/must';
import { effortsOf } from './efforts';

const TODAY = '2026-03-10';
const done: Done = { did: 'mixed' };

it('learns from what was recorded and taken back since the same as from everything anew', async () => {
  const { db } = await smallProgramme();
  const job = must(
    (
      await db('job')
        .insert({ instrument_id: 1, kind: 'full-set', status: 'finished', strings: '[]', opened_by: 1, opened_at: NOW })
        .returning('id')
    )[0],
  );
  const record = {
    job_id: job.id,
    instrument_id: 1,
    kind: 'change',
    at: NOW,
    notes: '',
    card_minutes: 30,
    done: columns.done.write(done),
  };
  const write = fc.record({
    minutes: fc.oneof(fc.integer({ min: 1, max: 400 }), fc.constant(null)),
    person: fc.constantFrom(1, 2),
    instrument: fc.constantFrom(1, 2),
    daysAgo: fc.integer({ min: 0, max: 500 }),
  });
  const step = fc.oneof(
    { weight: 4, arbitrary: fc.record({ write }) },
    { weight: 2, arbitrary: fc.record({ takeBack: fc.nat(60) }) },
    { weight: 2, arbitrary: fc.constant('ask' as const) },
  );
  await fc.assert(
    fc.asyncProperty(fc.array(step, { minLength: 4, maxLength: 25 }), async (steps) => {
      for (const s of [...steps, 'ask' as const]) {
        if (s === 'ask') {
          const fresh = openReader(folderOf(db));
          for (const person of [1, 2])
            for (const family of ['steel-acoustic', 'ukulele'] as const) {
              const [kept, anew] = [await effortsOf(db, TODAY), await effortsOf(fresh, TODAY)].map((e) => ({
                ...e.of(person, family, 30),
                spread: e.spread,
              }));
              for (const [key, value] of Object.entries(must(anew)))
                expect(kept?.[key as keyof typeof kept], key).toBeCloseTo(value as number, 8);
            }
          await fresh.destroy();
        } else if ('write' in s) {
          const { minutes, person, instrument, daysAgo } = s.write;
          await db('change_record').insert({
            ...record,
            instrument_id: instrument,
            person_id: person,
            minutes,
            on_day: addDays(TODAY, -daysAgo),
          });
        } else {
          const standing = await db('standing_record').where({ kind: 'change' }).orderBy('id');
          const r = standing[s.takeBack % Math.max(1, standing.length)];
          if (!r) continue;
          const back = { ...record, kind: 'correction', corrects_id: r.id, instrument_id: r.instrument_id };
          await db('change_record').insert({ ...back, person_id: 1, minutes: null, on_day: TODAY });
        }
      }
    }),
    { numRuns: 40 },
  );
  await db.destroy();
});
