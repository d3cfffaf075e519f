import { describe, expect, it } from 'vitest';
import { cents, frequencyHz, midiOf, NoteNameError } from '../../core/pitch/notes';

describe('equal temperament (ISO 16 for the reference pitch)', () => {
  it('gives Ab2 at A4 = 442 Hz', () => {
    expect(frequencyHz(midiOf('Ab2'), 442) / 104.29811).toBeCloseTo(1, 6);
  });

  it('stands as far from pure fifths as ratio arithmetic says: viola from A4 = 440', () => {
    const pure = { D4: 293.33333, G3: 195.55556, C3: 130.37037 };
    const against = { D4: -1.955, G3: -3.91, C3: -5.865 };
    for (const [name, hz] of Object.entries(pure)) {
      expect(cents(frequencyHz(midiOf(name)), hz)).toBeCloseTo(against[name as keyof typeof against], 3);
    }
  });

  it('counts the octave by the letter, so B♯3 is C4 (scientific pitch notation)', () => {
    expect(midiOf('B♯3')).toBe(midiOf('C4'));
    expect(midiOf('Cb4')).toBe(midiOf('B3'));
    expect(midiOf('A4')).toBe(69);
  });

  it('refuses what is no note name, and says how to write one', () => {
    for (const text of ['H2', 'e2', 'E', '2E', '']) expect(() => midiOf(text)).toThrow(NoteNameError);
  });
});
