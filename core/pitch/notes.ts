/** Semitones above C of the natural notes. */
const NATURALS: Record<string, number> = { C: 0, D: 2, E: 4, F: 5, G: 7, A: 9, B: 11 };
const ACCIDENTALS: Record<string, number> = { '': 0, '#': 1, '♯': 1, b: -1, '♭': -1, '##': 2, bb: -2 };

/** A note name that cannot be read. */
export class NoteNameError extends Error {
  constructor(readonly text: string) {
    super(`“${text}” is not a note name. Write the letter, an accidental if any, and the octave: E2, F#4, Ab2.`);
    this.name = 'NoteNameError';
  }
}

/**
 * MIDI note number of a name in scientific pitch notation. The octave belongs to the letter, so B♯3 is C4.
 * @throws NoteNameError when the name cannot be read.
 */
export function midiOf(name: string): number {
  const match = /^([A-G])(##|bb|#|b|♯|♭|)(-?\d+)$/.exec(name);
  if (!match) throw new NoteNameError(name);
  const [, letter = '', accidental = '', octave = ''] = match;
  return (Number(octave) + 1) * 12 + (NATURALS[letter] ?? 0) + (ACCIDENTALS[accidental] ?? 0);
}

/**
 * Frequency in Hz of a MIDI note in twelve-tone equal temperament: A4 · 2^((m − 69)/12) (ISO 16 fixes A4 = 440 Hz).
 * @param a4Hz the reference pitch of A4 in Hz.
 */
export function frequencyHz(midi: number, a4Hz = 440): number {
  return a4Hz * 2 ** ((midi - 69) / 12);
}

/** Interval in cents from `fromHz` up to `toHz`: 1200 · log2(to/from). */
export function cents(fromHz: number, toHz: number): number {
  return 1200 * Math.log2(toHz / fromHz);
}

const NAMES = ['C', 'C#', 'D', 'D#', 'E', 'F', 'F#', 'G', 'G#', 'A', 'A#', 'B'] as const;

/** The name of a MIDI note in scientific pitch notation, with sharps: 61 is C#4. */
export function nameOf(midi: number): string {
  const rounded = Math.round(midi);
  return `${NAMES[((rounded % 12) + 12) % 12]}${Math.floor(rounded / 12) - 1}`;
}

/** Reference pitches of A4 in use, in Hz: from the historical 415 to the high 466. */
export const A4_RANGE_HZ = { low: 415, high: 466 } as const;

/** @throws RangeError for a reference pitch nobody tunes to */
export function checkedA4(hz: number): number {
  if (!(hz >= A4_RANGE_HZ.low && hz <= A4_RANGE_HZ.high)) {
    throw new RangeError(
      `A4 = ${hz} Hz is not a reference pitch in use. Enter ${A4_RANGE_HZ.low} to ${A4_RANGE_HZ.high} Hz; 440 is usual.`,
    );
  }
  return hz;
}
