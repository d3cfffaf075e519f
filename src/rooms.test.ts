import { readdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { expect, it } from 'vitest';

const files = readdirSync('src', { recursive: true, encoding: 'utf8' })
  .filter((f) => /\.(astro|tsx?)$/.test(f) && !f.endsWith('.test.ts'))
  .map((f) => join('src', f));

/** A query: the database called as a function with a table, or its raw or schema side. */
const QUERY = /\bdb(<[^>]*>)?\(\s*['"`]|\bdb\.(raw|schema|from|select)\b/;

it('no screen and no endpoint asks the database itself', () => {
  expect(files.length).toBeGreaterThan(100);
  expect(files.filter((f) => QUERY.test(readFileSync(f, 'utf8')))).toEqual([]);
  // The check sees what it is for.
  expect(QUERY.test("await locals.db('lot').where({ id })")).toBe(true);
  expect(QUERY.test("db<{ id: number }>('person')")).toBe(true);
});

it('shapes of what is sent stand in the contract, not with the endpoints', () => {
  const own = files.filter((f) => f.startsWith(join('src', 'pages')) && /\bz\.\w+\(/.test(readFileSync(f, 'utf8')));
  expect(own).toEqual([]);
});

it('no island names things by useId: the names of the server’s page and the browser’s would differ', () => {
  expect(files.filter((f) => /\buseId\b/.test(readFileSync(f, 'utf8')))).toEqual([]);
});
