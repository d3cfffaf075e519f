import fc from 'fast-check';
import { expect, it } from 'vitest';
import { unfolded } from './unfold';

/** Folds as RFC 5545 3.1 allows it: at any byte, with a line break and a blank. */
function folded(text: string, at: number[], line: string): Uint8Array {
  const bytes = new TextEncoder().encode(text);
  const cuts = [...new Set(at.map((n) => 1 + (n % Math.max(1, bytes.length - 1))))].sort((a, b) => a - b);
  const parts: number[] = [];
  bytes.forEach((byte, i) => {
    if (cuts.includes(i)) parts.push(...new TextEncoder().encode(`${line} `));
    parts.push(byte);
  });
  return Uint8Array.from(parts);
}

it('puts lines together again wherever they were folded, also within a sign of several bytes (RFC 5545, 3.1)', () => {
  expect(unfolded(folded('SUMMARY:Übung ♯ 琴', [9, 18], '\r\n'))).toBe('SUMMARY:Übung ♯ 琴');
  fc.assert(
    fc.property(
      fc.string({ unit: 'grapheme', minLength: 2 }).filter((t) => !/[\r\n]/.test(t) && !/^[ \t]/.test(t)),
      fc.array(fc.nat(200), { maxLength: 4 }),
      fc.constantFrom('\r\n', '\n'),
      (text, at, line) => {
        expect(unfolded(folded(text, at, line))).toBe(text);
      },
    ),
  );
});
