import { readFileSync } from 'node:fs';
import { expect, it } from 'vitest';
import { tablesText } from '../../scripts/tables';
import { smallProgramme } from '../../tests/support/small';

it('the types of the rows are those of the schema; scripts/tables.ts makes them anew', async () => {
  const { db } = await smallProgramme();
  expect(readFileSync('server/db/tables.ts', 'utf8')).toBe(await tablesText(db));
  await db.destroy();
});
