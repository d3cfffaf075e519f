import fc from 'fast-check';
import { expect, it } from 'vitest';
import { Next } from './access';

it('after signing in somebody stays in this programme, whatever the address asks for', () => {
  expect(Next.parse('/plan?week=2')).toBe('/plan?week=2');
  for (const asked of [
    '//evil.example',
    'https://evil.example',
    '/\\evil.example',
    '/\t/evil.example',
    '/\n\\evil.example',
    '\t//evil.example',
    '/..//evil.example',
    'javascript:alert(1)',
    '',
    null,
  ])
    expect(Next.parse(asked), JSON.stringify(asked)).toBe('/');
  const origin = 'https://strings.example.org';
  const hostile = fc.array(
    fc.constantFrom('/', '\\', '\t', '\n', '.', '..', '@', ':', '?', '#', 'evil.example', '%09', ' '),
    {
      maxLength: 8,
    },
  );
  fc.assert(
    fc.property(hostile, (parts) => {
      expect(new URL(Next.parse(`/${parts.join('')}`), origin).origin).toBe(origin);
    }),
    { numRuns: 2000 },
  );
});
