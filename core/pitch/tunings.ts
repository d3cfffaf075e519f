import type { Family, Position } from '../instruments/build';
import { frequencyHz, midiOf } from './notes';

export interface Tuning {
  id: string;
  name: string;
  /** Sounding notes by position, highest number first: the order strings are drawn and named in. */
  notes: readonly string[];
  /** Sizes it is the usual tuning of, where it is not that of the whole family. */
  usualFor?: readonly string[];
}

const tuning = (id: string, name: string, notes: string, usualFor?: readonly string[]): Tuning => ({
  id,
  name,
  notes: notes.split(' '),
  ...(usualFor ? { usualFor } : {}),
});

const GUITAR = [
  tuning('standard', 'Standard', 'E2 A2 D3 G3 B3 E4'),
  tuning('drop-d', 'Drop D', 'D2 A2 D3 G3 B3 E4'),
  tuning('dadgad', 'D A D G A D', 'D2 A2 D3 G3 A3 D4'),
  tuning('open-g', 'Open G', 'D2 G2 D3 G3 B3 D4'),
  tuning('half-down', 'A semitone down', 'Eb2 Ab2 Db3 Gb3 Bb3 Eb4'),
  tuning('whole-down', 'A tone down', 'D2 G2 C3 F3 A3 D4'),
];
const BASS = [
  tuning('standard', 'Standard', 'E1 A1 D2 G2'),
  tuning('drop-d', 'Drop D', 'D1 A1 D2 G2'),
  tuning('whole-down', 'A tone down', 'D1 G1 C2 F2'),
];

/** The tunings of each family, the usual one first. Courses are named string by string. Common practice, no source. */
export const TUNINGS: Record<Family, readonly Tuning[]> = {
  'steel-acoustic': GUITAR,
  // Courses from low to high, the octave string of a course before its principal.
  'twelve-string': [
    tuning('standard', 'Standard', 'E3 E2 A3 A2 D4 D3 G4 G3 B3 B3 E4 E4'),
    tuning('whole-down', 'A tone down', 'D3 D2 G3 G2 C4 C3 F4 F3 A3 A3 D4 D4'),
  ],
  classical: [...GUITAR, tuning('third-f-sharp', 'Third string down to F sharp', 'E2 A2 D3 F#3 B3 E4')],
  electric: GUITAR,
  'bass-guitar': BASS,
  ukulele: [
    tuning('reentrant-c', 'C, high G', 'G4 C4 E4 A4'),
    tuning('low-g', 'C, low G', 'G3 C4 E4 A4'),
    tuning('reentrant-d', 'D, high A', 'A4 D4 F#4 B4'),
    tuning('baritone', 'Baritone', 'D3 G3 B3 E4', ['baritone']),
  ],
  banjo: [
    tuning('open-g', 'Open G', 'G4 D3 G3 B3 D4'),
    tuning('double-c', 'Double C', 'G4 C3 G3 C4 D4'),
    tuning('sawmill', 'G modal', 'G4 D3 G3 C4 D4'),
  ],
  mandolin: [tuning('standard', 'Standard', 'G3 G3 D4 D4 A4 A4 E5 E5')],
  violin: [tuning('standard', 'Standard', 'G3 D4 A4 E5'), tuning('a-e-a-e', 'A E A E', 'A3 E4 A4 E5')],
  viola: [tuning('standard', 'Standard', 'C3 G3 D4 A4')],
  cello: [tuning('standard', 'Standard', 'C2 G2 D3 A3'), tuning('a-to-g', 'First string down to G', 'C2 G2 D3 G3')],
  'double-bass': [tuning('orchestra', 'Orchestra', 'E1 A1 D2 G2'), tuning('solo', 'Solo, a tone up', 'F#1 B1 E2 A2')],
};

/** The tuning a family and size usually has. */
export function usualTuning(family: Family, size: string): Tuning {
  const all = TUNINGS[family];
  return all.find((t) => t.usualFor?.includes(size)) ?? (all[0] as Tuning);
}

/** True when some string sounds higher than the next one towards the treble: a ukulele's fourth, a banjo's fifth. */
export function isReentrant(positions: readonly Pick<Position, 'number' | 'course' | 'note'>[]): boolean {
  // Within a course the lower string counts: the octave strings of a 12-string do not make it re-entrant.
  const lowest = new Map<number, number>();
  for (const p of positions) lowest.set(p.course, Math.min(lowest.get(p.course) ?? 999, midiOf(p.note)));
  const fromBass = [...lowest].sort(([a], [b]) => b - a).map(([, midi]) => midi);
  return fromBass.some((midi, i) => i > 0 && midi < (fromBass[i - 1] as number));
}

/**
 * The MIDI note a position sounds with a capo at a fret. The short string of a banjo starts beyond most capos and
 * keeps its pitch; a spike holds it down at its own fret of the neck.
 */
export function soundingMidi(
  position: Pick<Position, 'note' | 'speakingLengthMm'>,
  held: { capoFret: number; spikeFret?: number },
): number {
  const open = midiOf(position.note);
  if (position.speakingLengthMm === undefined) return open + held.capoFret;
  return open + Math.max(0, (held.spikeFret ?? SHORT_STRING_FRET) - SHORT_STRING_FRET);
}

/** The short fifth of a banjo starts at the fifth fret. */
const SHORT_STRING_FRET = 5;

export const TEMPERAMENTS = ['equal', 'pure'] as const;
export type Temperament = (typeof TEMPERAMENTS)[number];

/**
 * Target frequencies in Hz by position number. `equal`: twelve-tone equal temperament. `pure`: from the A string
 * outwards in pure fifths (3:2) or fourths (4:3), as bowed strings are tuned by ear; an interval that is neither stays
 * equal-tempered. A violin's G is then 3.9 cents lower and a cello's C 5.9 (ratio arithmetic).
 */
export function targetsHz(
  positions: readonly Pick<Position, 'number' | 'note'>[],
  tuning: { a4Hz: number; temperament: Temperament },
): Map<number, number> {
  const equal = (note: string) => frequencyHz(midiOf(note), tuning.a4Hz);
  const targets = new Map(positions.map((p) => [p.number, equal(p.note)]));
  const anchor = positions.findIndex((p) => p.note.startsWith('A') && !/[b#♭♯]/.test(p.note));
  if (tuning.temperament === 'equal' || anchor < 0) return targets;
  const follow = (step: 1 | -1) => {
    for (let i = anchor + step; i >= 0 && i < positions.length; i += step) {
      const from = positions[i - step] as (typeof positions)[number];
      const to = positions[i] as (typeof positions)[number];
      const semitones = midiOf(to.note) - midiOf(from.note);
      const ratio = { 7: 3 / 2, 5: 4 / 3 }[Math.abs(semitones)] ?? 2 ** (Math.abs(semitones) / 12);
      const before = targets.get(from.number) as number;
      targets.set(to.number, semitones > 0 ? before * ratio : before / ratio);
    }
  };
  follow(1);
  follow(-1);
  return targets;
}
