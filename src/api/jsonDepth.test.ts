import fc from 'fast-check';
import { expect, it } from 'vitest';
import { jsonDepth } from './jsonDepth';

const depthOf = (value: unknown): number =>
  typeof value === 'object' && value !== null ? 1 + Math.max(0, ...Object.values(value).map(depthOf)) : 0;

it('counts how deep a text is nested as its value is, whatever stands in its strings', () => {
  fc.assert(fc.property(fc.jsonValue({ maxDepth: 8 }), (value) => jsonDepth(JSON.stringify(value)) === depthOf(value)));
  expect(jsonDepth('['.repeat(500_000))).toBe(500_000);
});
