import FFT from 'fft.js';
import { PartialFit } from './partialFit';

/** A string that may be sounding. */
export interface Target {
  number: number;
  /** Its note in Hz. */
  hz: number;
}

export interface Reading {
  /** The string it is taken for. */
  number: number;
  /** The first partial in Hz: what "in tune" is judged on. */
  hz: number;
  /** Above (+) or below (−) the target, in cents. */
  cents: number;
  /** Estimated standard deviation of `cents`, from how well the partials fit. */
  spreadCents: number;
  inharmonicity: number;
  /** Frequency in Hz that the period of the sound stands for: sharper than the first partial on stiff strings. */
  periodHz: number;
  /** Share of the sound that the string explains, 0 to 1. */
  clarity: number;
  /** Another string that the sound could be as well: then neither is told to be turned. Null where only one fits. */
  or: { number: number; cents: number } | null;
}

/** How far from its note a string is looked for, in cents: a new string falls by more than two semitones at first. */
const REACH_CENTS = 420;
const GRID_CENTS = 7;
/** Below this level there is nothing to judge. */
const SILENT_RMS = 1e-4;
const STIFFNESSES = [0, 6e-5, 2e-4, 5e-4, 1.1e-3] as const;
const MOST_PARTIALS = 22;
/** n √((1 + B n²)/(1 + B)) by n: how far up the n-th partial lies. */
const stretchOf = (b: number): Float64Array =>
  Float64Array.from({ length: MOST_PARTIALS + 1 }, (_, n) => n * Math.sqrt((1 + b * n * n) / (1 + b)));
const COARSE_STRETCH = [1e-5, 3e-4].map(stretchOf);
const FINE_STRETCH = STIFFNESSES.map(stretchOf);
const LEAST_CLARITY = 0.2;
/**
 * Odd partials over even ones from which the lower of two octaves is believed: so much where both strings are near their
 * notes, and less where the lower is in tune and the upper would be far off.
 */
const LEAST_ODD = 0.3;
const LEAST_ODD_IN_TUNE = 0.07;
/** Nearer to its note by so many cents, a string is the likelier one. */
const NEARER_CENTS = 80;
/** Within a factor of this either octave could be meant. */
const EITHER_OCTAVE = 1.8;
/** Partials that belong to no string a second or a third above: below this share a pitch is only what two have in common. */
const LEAST_OWN = 0.12;
/** What two strings have in common is only thought of where the softer has so much of the louder one. */
const BOTH_SOUND = 0.3;
/** A second string with so much of the first one's amplitude may be the one that was plucked. */
const RIVAL_SHARE = 0.45;
/** Below this share of the sound explained there is room for a second string. */
const CROWDED_CLARITY = 0.78;
/** Two strings whose notes lie nearer than this are one course. */
const COURSE_CENTS = 25;
/** Two strings between whose notes a pitch lies, told apart by no more than this, are both possible. */
const BETWEEN_CENTS = 60;

/**
 * Which string a pitch far from every note is. Strings come from below and fall when they are stretched: one that is
 * flat by two semitones is usual, one that is sharp by as much is hardly ever met, so sharp counts twice.
 */
function stringOf(hz: number, targets: readonly Target[]): Target {
  return targets.reduce((a, t) => (awayCents(hz, t) < awayCents(hz, a) ? t : a));
}

function awayCents(hz: number, target: Target): number {
  const cents = 1200 * Math.log2(hz / target.hz);
  return cents < 0 ? -cents : 2 * cents;
}

/** How far a pitch is from the note of the string it would be. */
const offCents = (hz: number, targets: readonly Target[]): number => awayCents(hz, stringOf(hz, targets));

/**
 * Estimates the pitch of one plucked string of an instrument from a frame of samples: candidates around the known
 * strings are scored on the spectrum by how much they explain and how many of their partials are there; the best is
 * refined by a joint least-squares fit of its partials, and of mains hum beside them, on a decimated frame.
 *
 * One estimator serves frames of one length; its buffers are made once.
 */
export class PitchEstimator {
  private readonly fft: FFT;
  private readonly spectrumIn: number[];
  private readonly spectrum: number[];
  /** Amplitude by bin. */
  private readonly amplitude: Float64Array;
  private readonly sample: Float64Array;
  private readonly window: Float64Array;
  private readonly halved: Float64Array;
  private readonly low: Float64Array;
  private readonly fit: PartialFit;
  private readonly coarse: number;
  private readonly coarseLength: number;
  private readonly size: number;
  private readonly filters = new Map<number, Float64Array>();

  /**
   * @param length samples in a frame, at least 2048
   * @param sampleRate in Hz
   */
  constructor(
    readonly length: number,
    readonly sampleRate: number,
    humHz = 50,
  ) {
    if (!(length >= 1024)) throw new RangeError('A frame holds at least 1024 samples: basses need more.');
    this.coarse = Math.max(1, Math.floor(sampleRate / 11_000));
    this.coarseLength = Math.floor(length / this.coarse);
    this.size = 2 ** Math.ceil(Math.log2(this.coarseLength * 2));
    this.fft = new FFT(this.size);
    this.spectrumIn = new Array(this.size).fill(0);
    this.spectrum = this.fft.createComplexArray();
    this.amplitude = new Float64Array(this.size / 2);
    this.sample = new Float64Array(Math.floor(this.amplitude.length / 4));
    this.window = new Float64Array(this.coarseLength);
    this.halved = new Float64Array(this.coarseLength + 8);
    this.low = new Float64Array(this.coarseLength + 8);
    this.fit = new PartialFit(this.coarseLength + 8, MOST_PARTIALS, [humHz, 2 * humHz, 3 * humHz]);
    for (let i = 0; i < this.coarseLength; i++)
      this.window[i] = 0.5 - 0.5 * Math.cos((2 * Math.PI * (i + 0.5)) / this.coarseLength);
  }

  /**
   * The string that sounds in a frame, or null when it is too quiet or nothing clear is heard.
   * @param samples at least `length` of them, read from the start
   * @param targets the strings the instrument has, with their notes
   */
  read(samples: Float32Array, targets: readonly Target[]): Reading | null {
    let energy = 0;
    for (let i = 0; i < this.length; i++) energy += (samples[i] as number) ** 2;
    if (Math.sqrt(energy / this.length) < SILENT_RMS || targets.length === 0) return null;
    const coarseLength = this.decimate(samples, this.length, this.coarse, this.halved);
    const rate = this.sampleRate / this.coarse;
    this.transform(coarseLength);
    const best = this.choose(rate, targets);
    if (!best) return null;
    const refined = this.refine(coarseLength, rate, best.hz);
    if (!refined) return null;
    const hz = refined.f1;
    const nearest = stringOf(hz, targets);
    const clarity = 1 - refined.residualShare;
    return {
      number: nearest.number,
      hz,
      cents: 1200 * Math.log2(hz / nearest.hz),
      spreadCents: (refined.sdHz / hz) * (1200 / Math.LN2),
      inharmonicity: refined.b,
      periodHz: refined.periodHz,
      clarity,
      or: this.alternative(rate, targets, { hz, nearest, clarity, eitherHz: best.eitherHz, stiffness: refined.b }),
    };
  }

  /** Another string that the sound could be, by what is known when one has been chosen. */
  private alternative(
    rate: number,
    targets: readonly Target[],
    p: { hz: number; nearest: Target; clarity: number; eitherHz: number | null; stiffness: number },
  ): Reading['or'] {
    const said = (hz: number, target: Target) => ({ number: target.number, cents: 1200 * Math.log2(hz / target.hz) });
    const otherNote = (t: Target) => Math.abs(1200 * Math.log2(t.hz / p.nearest.hz)) > COURSE_CENTS;
    if (p.eitherHz !== null) {
      const target = stringOf(p.eitherHz, targets);
      if (otherNote(target)) return said(p.eitherHz, target);
    }
    // Between two notes: one string flat or another one sharp.
    const own = awayCents(p.hz, p.nearest);
    for (const t of targets)
      if (
        otherNote(t) &&
        own > BETWEEN_CENTS &&
        awayCents(p.hz, t) - own < BETWEEN_CENTS &&
        awayCents(p.hz, t) < REACH_CENTS
      )
        return said(p.hz, t);
    if (p.clarity >= CROWDED_CLARITY) return null;
    // What is left of the sound without this string: another one of it may have been meant.
    const first = this.without(p.hz, p.stiffness, rate);
    const second = this.choose(rate, targets);
    if (!second || second.explained < RIVAL_SHARE * first) return null;
    const target = stringOf(second.hz, targets);
    return otherNote(target) ? said(second.hz, target) : null;
  }

  /** Takes a string's partials out of the spectrum; returns their amplitude. */
  private without(hz: number, b: number, rate: number): number {
    let taken = 0;
    for (let n = 1; n <= MOST_PARTIALS; n++) {
      const at = (n * hz * Math.sqrt((1 + b * n * n) / (1 + b)) * this.size) / rate;
      if (at > 0.42 * this.size) break;
      if (n <= 12) taken += this.amplitudeAt(at);
      // The main lobe of the window is four bins of an unpadded frame wide.
      const reach = Math.ceil((2.2 * this.size) / this.coarseLength);
      for (let k = Math.max(0, Math.floor(at) - reach); k <= Math.min(this.amplitude.length - 1, at + reach); k++)
        this.amplitude[k] = 0;
    }
    return taken;
  }

  /** Low-pass and every n-th sample; returns how many there are. The filter's edges are left out. */
  private decimate(x: Float32Array | Float64Array, length: number, by: number, out: Float64Array): number {
    if (by === 1) {
      for (let i = 0; i < length; i++) out[i] = x[i] as number;
      return length;
    }
    let taps = this.filters.get(by);
    if (!taps) {
      taps = lowPass(by);
      this.filters.set(by, taps);
    }
    const span = taps.length;
    let count = 0;
    for (let start = 0; start + span <= length; start += by) {
      let sum = 0;
      for (let j = 0; j < span; j++) sum += (taps[j] as number) * (x[start + j] as number);
      out[count] = sum;
      count += 1;
    }
    return count;
  }

  private transform(length: number): void {
    const { spectrumIn, amplitude } = this;
    for (let i = 0; i < length; i++) spectrumIn[i] = (this.halved[i] as number) * (this.window[i] as number);
    for (let i = length; i < this.size; i++) spectrumIn[i] = 0;
    this.fft.realTransform(this.spectrum, spectrumIn);
    for (let k = 0; k < amplitude.length; k++) {
      const re = this.spectrum[2 * k] as number;
      const im = this.spectrum[2 * k + 1] as number;
      amplitude[k] = Math.sqrt(re * re + im * im);
    }
  }

  /** Amplitude at a place of the spectrum, in bins. */
  private amplitudeAt(at: number): number {
    const k = Math.floor(at);
    if (k + 1 >= this.amplitude.length) return 0;
    const a = this.amplitude[k] as number;
    return a + ((this.amplitude[k + 1] as number) - a) * (at - k);
  }

  /** The candidate that explains most with partials that are really there. */
  private choose(
    rate: number,
    targets: readonly Target[],
  ): { hz: number; explained: number; eitherHz: number | null } | null {
    const top = 0.42 * this.size;
    const bins = this.size / rate;
    // The floor is what most bins hold; every fourth tells.
    const { sample } = this;
    for (let i = 0; i < sample.length; i++) sample[i] = this.amplitude[4 * i] as number;
    sample.sort();
    const loudest = sample[sample.length - 1] as number;
    const floor = (sample[sample.length >> 1] as number) * 2.45 + loudest * 3e-4;
    let best: { hz: number; score: number; explained: number } | null = null;
    for (const target of targets) {
      for (let cents = -REACH_CENTS; cents <= REACH_CENTS; cents += GRID_CENTS) {
        const f = target.hz * 2 ** (cents / 1200);
        for (const stretch of COARSE_STRETCH) {
          let explained = 0;
          let there = 0;
          let looked = 0;
          for (let n = 1; n <= 12; n++) {
            const at = f * bins * (stretch[n] as number);
            if (at > top) break;
            const p = this.amplitudeAt(at);
            explained += p;
            // Weak fundamentals are forgiven; gaps among the next are not.
            const weight = n === 1 ? 0.5 : n <= 6 ? 1 : 0.4;
            looked += weight;
            if (p > floor) there += weight;
          }
          const score = explained * (there / Math.max(1, looked)) ** 2;
          if (!best || score > best.score) best = { hz: f, score, explained };
        }
      }
    }
    if (!best) return null;
    const own = this.ownOf(best.hz, rate, targets);
    const octave = this.octaveOf(own.hz, rate, targets, own.eitherHz);
    // An octave down it may be what two have in common as well.
    const last = this.ownOf(octave.hz, rate, targets);
    return { explained: best.explained, hz: last.hz, eitherHz: last.eitherHz ?? octave.eitherHz };
  }

  /**
   * What two strings a fifth apart have in common is a pitch that neither has: its first, fifth and seventh partials are
   * missing. Then it is the one of the two that sounds more.
   */
  private ownOf(hz: number, rate: number, targets: readonly Target[]): { hz: number; eitherHz: number | null } {
    const near = (f: number) => targets.some((t) => Math.abs(1200 * Math.log2(f / t.hz)) <= REACH_CENTS);
    if (!near(2 * hz) || !near(3 * hz)) return { hz, eitherHz: null };
    const sum = (list: readonly number[]) => list.reduce((total, n) => total + this.partialAt(n * hz, n, rate), 0);
    const [second, third, own] = [sum([2, 4, 8, 10]), sum([3, 9]), sum([1, 5, 7, 11])];
    const [loud, soft] = [Math.max(second, 1.5 * third), Math.min(second, 1.5 * third)];
    // One strong partial alone is no second string.
    if (own > LEAST_OWN * (second + third) || soft < BOTH_SOUND * loud) return { hz, eitherHz: null };
    const [main, other] = second > 1.5 * third ? [2 * hz, 3 * hz] : [3 * hz, 2 * hz];
    return { hz: main, eitherHz: soft > RIVAL_SHARE * loud ? other : null };
  }

  /** Amplitude of the strongest bin about a partial: stiff strings run sharp of whole multiples. */
  private partialAt(hz: number, n: number, rate: number): number {
    if (hz > 0.42 * rate) return 0;
    let most = 0;
    for (let cents = 0; cents <= 18 * n; cents += 9)
      most = Math.max(most, this.amplitudeAt((hz * 2 ** (cents / 12_000) * this.size) / rate));
    return most;
  }

  /**
   * Which of two octaves it is: the lower one only when its odd partials are really there. A string that rings along
   * an octave below at −12 dB has a quarter of their amplitude, a string of its own has more; less is enough where the
   * lower string is in tune and the upper one would be far from its note. Where it is close, either may be meant.
   */
  private octaveOf(
    hz: number,
    rate: number,
    targets: readonly Target[],
    otherHz: number | null,
  ): { hz: number; eitherHz: number | null } {
    const near = (f: number) => targets.some((t) => Math.abs(1200 * Math.log2(f / t.hz)) <= REACH_CENTS);
    const resolvable = (f: number) => f > (4 * rate) / this.coarseLength;
    /** The odd partials it takes to believe the lower of an octave. */
    const needed = (lower: number) =>
      offCents(lower, targets) + NEARER_CENTS < offCents(2 * lower, targets) ? LEAST_ODD_IN_TUNE : LEAST_ODD;
    const decide = (lower: number) => {
      const odd = this.oddShare(lower, rate);
      const least = needed(lower);
      const close = odd < least * EITHER_OCTAVE && odd > least / EITHER_OCTAVE;
      return odd > least
        ? { hz: lower, eitherHz: close ? 2 * lower : otherHz }
        : { hz: 2 * lower, eitherHz: close ? lower : otherHz };
    };
    if (near(hz / 2) && resolvable(hz / 2)) {
      const choice = decide(hz / 2);
      if (choice.hz === hz / 2 || choice.eitherHz !== otherHz) return choice;
    }
    if (near(hz * 2) && resolvable(hz)) return decide(hz);
    return { hz, eitherHz: otherHz };
  }

  /** Amplitude of the odd partials of a frequency over that of its even ones. */
  private oddShare(hz: number, rate: number): number {
    let [odd, even] = [0, 0];
    for (let n = 1; n <= 12; n++) {
      const most = this.partialAt(n * hz, n, rate);
      if (n % 2) odd += most;
      else even += most;
    }
    return even > 0 ? odd / even : Number.POSITIVE_INFINITY;
  }

  /** The joint fit, on a frame decimated so that it holds about as many partials as can be used. */
  private refine(length: number, rate: number, hz: number) {
    const wanted = Math.min(MOST_PARTIALS, Math.max(4, Math.floor(1600 / hz) + 5));
    const by = Math.max(1, Math.floor(rate / (2.5 * (wanted + 1) * hz)));
    const lowLength = this.decimate(this.halved, length, by, this.low);
    const lowRate = rate / by;
    // Start: the best of a small grid on the spectrum, with stiffness.
    let start = { f1: hz, b: 0, score: -1 };
    for (let cents = -12; cents <= 12; cents += 1.5) {
      const f1 = hz * 2 ** (cents / 1200);
      for (const [index, b] of STIFFNESSES.entries()) {
        const stretch = FINE_STRETCH[index] as Float64Array;
        let score = 0;
        for (let n = 1; n <= wanted; n++) {
          const at = (f1 * (stretch[n] as number) * this.size) / rate;
          if (at > 0.42 * this.size) break;
          score += this.amplitudeAt(at);
        }
        if (score > start.score) start = { f1, b, score };
      }
    }
    let now: { f1: number; b: number } = start;
    let fitted: ReturnType<PartialFit['improve']> = null;
    // Few partials first: their starting values may be further off.
    for (const [partials, steps] of [
      [Math.min(5, wanted), 4],
      [wanted > 12 ? 10 : 0, 5],
      [wanted, 10],
    ] as const) {
      if (partials === 0) continue;
      fitted = this.fit.improve(this.low, lowLength, lowRate, now, partials, steps, partials >= 4);
      if (!fitted) return null;
      now = fitted;
    }
    if (!fitted || 1 - fitted.residualShare < LEAST_CLARITY) return null;
    return { ...fitted, periodHz: this.periodOf(rate, fitted, wanted) };
  }

  /** The frequency whose whole multiples lie nearest to the partials, each by its power. */
  private periodOf(rate: number, fitted: { f1: number; b: number }, partials: number): number {
    let [sum, weight] = [0, 0];
    for (let n = 1; n <= partials; n++) {
      const fn = n * fitted.f1 * Math.sqrt((1 + fitted.b * n * n) / (1 + fitted.b));
      if (fn > 0.42 * rate) break;
      const w = this.amplitudeAt((fn * this.size) / rate) ** 2 * n * n;
      sum += (fn / n) * w;
      weight += w;
    }
    return weight > 0 ? sum / weight : fitted.f1;
  }
}

/** A windowed sinc that passes what the decimated rate can carry. */
function lowPass(by: number): Float64Array {
  const half = 5 * by;
  const taps = new Float64Array(2 * half + 1);
  const cut = 0.46 / by;
  let sum = 0;
  for (let i = -half; i <= half; i++) {
    const ideal = i === 0 ? 2 * cut : Math.sin(2 * Math.PI * cut * i) / (Math.PI * i);
    const x = (i + half + 0.5) / (2 * half + 1);
    const blackman = 0.42 - 0.5 * Math.cos(2 * Math.PI * x) + 0.08 * Math.cos(4 * Math.PI * x);
    taps[i + half] = ideal * blackman;
    sum += taps[i + half] as number;
  }
  return taps.map((t) => t / sum);
}
