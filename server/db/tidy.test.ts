import { expect, it } from 'vitest';
import { acting, NOW, smallProgramme } from '../../tests/support/small';
import { openJob } from '../bench/jobs';
import { AUDIT_DAYS, KEYS_DAYS, tidy } from './tidy';

const DAY = 86_400_000;

it('keys and audit entries go when they are old, many at a time, and whatever is younger counts once as before', async () => {
  const { db } = await smallProgramme();
  const count = async (table: string) => Number((await db(table).count({ n: '*' }).first())?.n);
  const by = acting(1, 'bench-key-1', NOW);
  const first = await openJob(db, by, { tag: 'UK-1' });
  await db.raw(
    `with recursive n(i) as (select 1 union all select i + 1 from n where i < 1201)
     insert into idempotency (key, action, person_id, request_hash, response, at)
     select 'old-' || i, 'x', 1, 'h', '{}', ? from n`,
    [NOW - (KEYS_DAYS + 1) * DAY],
  );
  const keys = await count('idempotency');
  const audit = await count('audit');
  expect(await tidy(db, NOW)).toEqual({ keys: 1201, audit: 0, names: 0 });
  expect([await count('idempotency'), await count('audit')]).toEqual([keys - 1201, audit]);
  expect(await openJob(db, by, { tag: 'UK-1' })).toEqual(first);
  expect((await tidy(db, NOW + (AUDIT_DAYS + 2) * DAY)).audit).toBe(audit);
  // Of what was written, the last is remembered.
  await db.raw(`with recursive n(i) as (select 1 union all select i + 1 from n where i < 25000)
    insert into instrument_touched (instrument_id) select 1 from n`);
  const last = (await db('instrument_touched').max({ seq: 'seq' }).first())?.seq;
  await tidy(db, NOW);
  expect(await db('instrument_touched').min({ first: 'seq' }).max({ last: 'seq' }).first()).toEqual({
    first: Number(last) - 10_000,
    last,
  });
  // What was done stays done.
  expect(await count('job')).toBe(1);
  await db.destroy();
});
