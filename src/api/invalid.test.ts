import fc from 'fast-check';
import { expect, it } from 'vitest';
import { z } from 'zod';
import { readShape } from './invalid';

const contract = import.meta.glob<Record<string, unknown>>('../../contract/*.ts', { eager: true });
const SHAPES = Object.entries(contract).flatMap(([file, exported]) =>
  Object.entries(exported)
    .filter(([, value]) => value instanceof z.ZodObject)
    .map(([name, shape]) => [`${file.split('/').at(-1)} ${name}`, shape as z.ZodObject] as const),
);

/** Words of the library, of the code and of machines. */
const RAW =
  /[Ii]nvalid|[Ee]xpected (?!delivery)|[Rr]eceived|Too (small|big)|Zod|regex|\bNaN\b|null|undefined|\[object|_|[a-z][A-Z][a-z]+|\.\.|\d{4}-\d\d-\d\d|choose one of/;

const nonsense = fc.oneof(
  fc.constantFrom('', 'x', '-3', '1e9', 'no', '2026-13-40', 'x'.repeat(5000), null, true, -1, 1e12, [], {}),
  fc.string({ maxLength: 12 }),
);

it.each(SHAPES)('%s says what is wrong in words', (_, shape) => {
  const keys = Object.keys(shape.shape);
  fc.assert(
    fc.property(fc.record(Object.fromEntries(keys.map((key) => [key, nonsense])), { requiredKeys: [] }), (sent) => {
      const read = readShape(shape, sent);
      if (read.ok) return;
      expect(read.says).toMatch(/^[A-Z“0-9].*\.$/s);
      // An example of a date is one.
      expect(
        read.says.replaceAll('such as 2026-12-18', '').replaceAll(/https?:\S+|\S+@\S+|Europe\/\w+/g, ''),
      ).not.toMatch(RAW);
    }),
    { numRuns: 60 },
  );
});

it('names fields as screens do, uses the contract’s own words, and asks for a reload where a page sent nonsense by itself', () => {
  const says = (shape: z.ZodType, sent: unknown) => {
    const read = readShape(shape, sent);
    return read.ok ? null : read.says;
  };
  const shape = z.object({
    placeId: z.int(),
    name: z.string().min(2, 'give it a name'),
    kind: z.enum(['', 'steel-acoustic']),
    why: z.string().max(3),
  });
  expect(says(shape, { placeId: '', name: 'x', kind: 'kazoo', why: 'too long' })).toBe(
    'Place: choose one; name: give it a name; kind: choose one from the list; reason: at most 3 characters.',
  );
  expect(says(z.object({ expectedVersion: z.int() }), {})).toContain('reload');
});
