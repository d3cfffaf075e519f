import fc from 'fast-check';
import { expect, it } from 'vitest';
import { decodeStrip, encodeStrip, type StripString } from '../../core/wear/strip';
import { stripGeometry, stripWords } from './strip';

const string = fc.record<StripString>({
  number: fc.integer({ min: 1, max: 12 }),
  gaugeMm: fc.double({ min: 0.2, max: 3, noNaN: true }),
  wound: fc.boolean(),
  state: fc.constantFrom('on', 'settling', 'broken', 'missing', 'unknown', 'off'),
  life: fc.double({ min: 0, max: 1, noNaN: true }),
});

it('keeps every line inside its box and apart from the next, from 24 px to full width', () => {
  fc.assert(
    fc.property(
      fc.array(string, { minLength: 1, maxLength: 12 }),
      fc.integer({ min: 60, max: 1200 }),
      fc.integer({ min: 24, max: 200 }),
      (strings, width, height) => {
        const courses = strings.map((_, i) => Math.floor(i / 2));
        const { lines, nutX, bridgeX } = stripGeometry(strings, width, height, courses);
        lines.forEach((line, i) => {
          expect(line.y - line.width / 2).toBeGreaterThanOrEqual(-0.5);
          expect(line.y + line.width / 2).toBeLessThanOrEqual(height + 0.5);
          expect(line.fillTo).toBeLessThanOrEqual(bridgeX);
          if (strings[i]?.state !== 'broken' && strings[i]?.state !== 'missing')
            expect(line.fillTo).toBeGreaterThanOrEqual(nutX);
          if (i > 0) expect(line.y).toBeGreaterThan(lines[i - 1]?.y ?? 0);
        });
      },
    ),
  );
});

it('travels as short text and comes back the same', () => {
  fc.assert(
    fc.property(fc.array(string, { minLength: 1, maxLength: 12 }), (strings) => {
      const rounded = strings.map((s) => ({
        ...s,
        gaugeMm: +s.gaugeMm.toFixed(2),
        life: Math.round(s.life * 100) / 100,
      }));
      expect(decodeStrip(encodeStrip(strings))).toEqual(rounded);
    }),
  );
  expect(() => decodeStrip('nonsense')).toThrow(RangeError);
});

it('shows state by form as well as colour, and says it in words', () => {
  const of = (state: StripString['state']): StripString => ({
    number: 1,
    gaugeMm: 0.6,
    wound: false,
    state,
    life: 0.4,
  });
  const [settling, broken] = stripGeometry([of('settling'), of('broken')], 130, 26).lines;
  expect(settling?.wave).not.toBeNull();
  expect(broken?.crossAt).not.toBeNull();
  expect(stripWords([of('on'), of('broken'), of('settling')])).toBe(
    '3 strings, 1 broken, 1 settling, 40 % of life left',
  );
});
