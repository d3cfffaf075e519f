import type { Reading } from './estimate';

/** What may be shown, in cents: a reading less sure than this is not shown at all. */
export const SHOWN_SPREAD_CENTS = { low: 2, usual: 1 } as const;
/** Below this, in Hz, a string is a bass to the tuner. */
const LOW_HZ = 130;
const LEAST_CLARITY = 0.35;
/** Frames that must agree before another string or octave is believed. */
const AGREE = 2;
const SAME_CENTS = 60;

/**
 * Turns a stream of readings into one that can be watched: unsure frames are left out, another string or octave is
 * believed only when frames agree, and the middle of the last three is shown.
 */
export class SteadyReading {
  private shown: Reading | null = null;
  private rival: Reading | null = null;
  private agreed = 0;
  private recent: number[] = [];
  private silent = 0;

  /** @returns the reading to show now, or null when nothing has been heard for a while */
  next(reading: Reading | null): Reading | null {
    const sure =
      reading !== null &&
      reading.clarity >= LEAST_CLARITY &&
      reading.spreadCents <= (reading.hz < LOW_HZ ? SHOWN_SPREAD_CENTS.low : SHOWN_SPREAD_CENTS.usual);
    if (!reading || !sure) {
      this.silent += 1;
      // A plucked string fades: what it last said stays readable for a moment.
      if (this.silent > 15) this.shown = null;
      return this.shown;
    }
    this.silent = 0;
    const near = (other: Reading | null) =>
      other !== null && Math.abs(1200 * Math.log2(reading.hz / other.hz)) < SAME_CENTS;
    if (near(this.shown)) {
      this.rival = null;
      this.recent = [...this.recent.slice(-2), reading.cents];
      return this.show(reading);
    }
    this.agreed = near(this.rival) ? this.agreed + 1 : 1;
    this.rival = reading;
    if (this.shown !== null && this.agreed < AGREE) return this.shown;
    this.rival = null;
    this.recent = [reading.cents];
    return this.show(reading);
  }

  private show(reading: Reading): Reading {
    const sorted = [...this.recent].sort((a, b) => a - b);
    const middle = sorted[Math.floor(sorted.length / 2)] as number;
    this.shown = { ...reading, cents: middle };
    return this.shown;
  }
}

export type Verdict = 'in-tune' | 'flat' | 'sharp' | 'very-flat' | 'very-sharp';

/** In tune within this many cents of the first partial; a bass is heard less finely. Common practice, no source. */
export const IN_TUNE_CENTS = { low: 5, usual: 3 } as const;

/** What to do with a reading: up to the note from below; from above, go below first. */
export function verdictOf(reading: Pick<Reading, 'cents' | 'hz'>): Verdict {
  const within = reading.hz < LOW_HZ ? IN_TUNE_CENTS.low : IN_TUNE_CENTS.usual;
  if (Math.abs(reading.cents) <= within) return 'in-tune';
  if (reading.cents < 0) return reading.cents < -100 ? 'very-flat' : 'flat';
  return reading.cents > 50 ? 'very-sharp' : 'sharp';
}

export const VERDICT_WORDS: Record<Verdict, string> = {
  'in-tune': 'In tune. Leave it and go on.',
  flat: 'Flat: tighten slowly, up to the note.',
  'very-flat': 'Far too low: tighten slowly, a little at a time.',
  sharp: 'Sharp: go below the note, then come up to it.',
  'very-sharp': 'Too high: slacken to below the note now, then come up.',
};
