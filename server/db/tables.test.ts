import { readFileSync } from 'node:fs';
import { expect, it } from 'vitest';
import { formatText, tablesText } from '../../scripts/tables';
import { smallProgramme } from '../../tests/support/small';

it('the types of the rows and the format of a whole programme are those of the schema; scripts/tables.ts makes them anew', async () => {
  const { db } = await smallProgramme();
  expect(readFileSync('server/db/tables.ts', 'utf8')).toBe(await tablesText(db));
  expect(readFileSync('docs/formats/programme.schema.json', 'utf8')).toBe(await formatText(db));
  await db.destroy();
});
