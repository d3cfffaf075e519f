import { readdirSync, readFileSync } from 'node:fs';
import { expect, it } from 'vitest';
import { HOUSE_METHODS } from '../../core/procedures/method';
import { houseEntries, smallProgramme } from '../../tests/support/small';
import { loadInstrument } from '../fleet/instruments';
import * as columns from './columns';

it('a column is read in the shape it is written in, and what it cannot be is said with its name', async () => {
  for (const way of Object.values(HOUSE_METHODS)) expect(columns.method.read(columns.method.write(way))).toEqual(way);
  expect(columns.numbers.read('[3,1]')).toEqual([3, 1]);
  expect(() => columns.numbers.read('[1,"x"]')).toThrow(/keeps as numbers cannot be/);
  expect(() => columns.due.read('{')).toThrow(/keeps as a due date is no JSON/);
  expect(() => columns.method.read('{"atATime":9}')).toThrow(columns.Damaged);
  // A way of working from before there was a choice for plain strings is read as one without it.
  const { slackPlain: _, windsPlain: __, ...old } = HOUSE_METHODS.violin;
  expect(columns.method.read(JSON.stringify(old))).toMatchObject({ slackPlain: null, windsPlain: null });
  const { db } = await smallProgramme();
  expect((await houseEntries(db, 'UK-1')).length).toBe(4);
  await db('instrument').where({ tag: 'UK-1' }).update({ extras: '{"a":1}' });
  await expect(loadInstrument(db, { tag: 'UK-1' })).rejects.toThrow(/keeps as texts/);
  await db.destroy();
});

it('JSON of the database is read nowhere else', () => {
  const files = readdirSync('server', { recursive: true, encoding: 'utf8' }).filter(
    (f) => f.endsWith('.ts') && !f.endsWith('.test.ts'),
  );
  expect(files.filter((f) => readFileSync(`server/${f}`, 'utf8').includes('JSON.parse')).sort()).toEqual([
    'db/change.ts',
    'db/columns.ts',
    'db/migrations/0002-trade.ts',
    'db/migrations/0036-facts.ts',
    // A file that is brought, of no database yet.
    'export/programme.ts',
  ]);
});
