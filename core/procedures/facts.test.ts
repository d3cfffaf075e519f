import fc from 'fast-check';
import { expect, it } from 'vitest';
import { lengthIn } from './facts';

it('takes a length out of what somebody wrote down, in millimetres, centimetres or inches', () => {
  const said = (text: string) => lengthIn('bridge-place', text);
  expect(said('327.5, on their marks')).toBe(327.5);
  expect(said('327,5 mm')).toBe(327.5);
  expect(said('32.75cm, feet on the inner nicks')).toBe(327.5);
  expect(said('12.9 in')).toBe(327.7);
  expect(said('feet on their marks')).toBeNull();
  // No length of any instrument: a date, a count, a slip of the finger.
  for (const text of ['3', '24 Nov', '32750', '']) expect(said(text), text).toBeNull();
  expect(lengthIn('pickup-clip', '327.5')).toBeNull();
});

it('whatever is written, it is a length of an instrument or none', () => {
  fc.assert(
    fc.property(fc.string(), (text) => {
      const mm = lengthIn('bridge-place', text);
      if (mm !== null) expect(mm >= 150 && mm <= 1300).toBe(true);
    }),
  );
});
