import { expect, it } from 'vitest';
import type { Position } from '../instruments/build';
import { defaultBuild } from '../instruments/defaults';
import { fillText, sayQuantity } from './quantities';
import type { Quantity } from './types';
import { groupLabel, groupPhrase, postPhrase, stringLabel } from './words';

const slack: Quantity = { label: 'Pull back', value: 36.37, unit: 'mm', digits: 0, why: '' };
const guitar = defaultBuild('steel-acoustic', '4/4');
const at = (n: number) => guitar.positions.find((p) => p.number === n) as Position;

it('puts numbers with their units where the text names them, and refuses one that is not there', () => {
  expect(fillText('Back {slack}, then on.', { slack })).toEqual([
    { text: 'Back ', name: null },
    { text: '36 mm', name: 'slack' },
    { text: ', then on.', name: null },
  ]);
  expect(() => fillText('Back {turns}.', { slack })).toThrow('{turns}');
  expect(sayQuantity({ ...slack, value: 12, to: 19 })).toBe('12 to 19 mm');
});

it('never names a string by its letter alone where two share it', () => {
  expect(stringLabel(guitar, at(6))).toBe('E2 (string 6, bass side)');
  expect(stringLabel(guitar, at(1))).toBe('E4 (string 1, treble side)');
  expect(stringLabel(guitar, at(5))).toBe('A2 (string 5, bass side)');
  expect(groupLabel(guitar, guitar.positions)).toBe('all six strings');
  // Which strings, not only how many.
  expect(groupLabel(guitar, [at(3), at(2)])).toBe('G3 and B3 (strings 3 and 2)');
  expect(groupLabel(guitar, [at(6), at(5), at(4)])).toBe('E2, A2 and D3 (strings 6, 5 and 4)');
  // On both sides of the head posts turn different ways, and both are said.
  expect(groupPhrase(guitar, [at(6), at(1)], 'loosens')).toMatch(/^E2: .*clockwise.* E4: .*anticlockwise/);
  expect(groupPhrase(guitar, [at(6), at(5)], 'loosens')).not.toContain('E2:');
  expect(groupLabel(guitar, [at(3)])).toBe('G3 (string 3, treble side)');
});

it('loosens the opposite way to tightening', () => {
  expect(postPhrase(guitar, at(6), 'tightens')).toContain('tightens anticlockwise');
  expect(postPhrase(guitar, at(6), 'loosens')).toContain('loosens clockwise');
  expect(postPhrase({ ...guitar, head: 'slotted' }, at(6), 'tightens')).toContain('over the top');
});
