/** What a plucked string sounds like to a small microphone, for trying a tuner on. */
export interface Pluck {
  /** The first partial in Hz: what "in tune" is judged on. */
  firstPartialHz: number;
  /** Inharmonicity: f_n = n f₀ √(1 + B n²). */
  inharmonicity: number;
  /** Below this a small microphone hears less and less, in Hz. */
  weakBelowHz: number;
  /** Where along the string it is plucked, 0 to 1: partials with a node there are missing. */
  pluckedAt: number;
  /** Decay of the first partial to 1/e, in s; higher ones fall faster. */
  decayS: number;
  /** How many times louder than the first the second partial is to be, in dB; null: as it comes. */
  secondOverFirstDb: number | null;
  /** Change of pitch over time, in cents per second. */
  glideCentsPerS: number;
  /** Random displacement of each higher partial, standard deviation in cents. */
  scatterCents: number;
  /** Beating of two polarisations this many cents apart; 0: one only. */
  splitCents: number;
}

export interface Scene extends Pluck {
  /** Signal to white noise over the frame, in dB. */
  snrDb: number;
  /** Mains hum relative to the signal, in dB; null: none. */
  humDb: number | null;
  humHz: number;
  /** Another string that rings along, relative to the signal, in dB. */
  neighbour: { firstPartialHz: number; levelDb: number } | null;
}

export const PLAIN_PLUCK: Pluck = {
  firstPartialHz: 110,
  inharmonicity: 1e-4,
  weakBelowHz: 100,
  pluckedAt: 0.21,
  decayS: 1.6,
  secondOverFirstDb: null,
  glideCentsPerS: 0,
  scatterCents: 0,
  splitCents: 0,
};

/** Frequency in Hz of the n-th partial when the first is at `firstHz`. */
export function partialHz(firstHz: number, inharmonicity: number, n: number): number {
  return n * firstHz * Math.sqrt((1 + inharmonicity * n * n) / (1 + inharmonicity));
}

/** One value of the standard normal distribution (Box and Muller) from a uniform source. */
export function normal(rng: () => number): number {
  return Math.sqrt(-2 * Math.log(1 - rng())) * Math.cos(2 * Math.PI * rng());
}

function addString(out: Float64Array, sampleRate: number, p: Pluck, rng: () => number): void {
  const count = Math.min(40, Math.floor((0.45 * sampleRate) / p.firstPartialHz));
  for (let n = 1; n <= count; n++) {
    const scatter = n > 1 ? p.scatterCents * normal(rng) : 0;
    const f = partialHz(p.firstPartialHz, p.inharmonicity, n) * 2 ** (scatter / 1200);
    if (f > 0.45 * sampleRate) break;
    const heard = f ** 2 / (f ** 2 + p.weakBelowHz ** 2);
    let amplitude = (heard * Math.abs(Math.sin(Math.PI * n * p.pluckedAt))) / n;
    if (n === 2 && p.secondOverFirstDb !== null) {
      const f1 = p.firstPartialHz;
      const first = (f1 ** 2 / (f1 ** 2 + p.weakBelowHz ** 2)) * Math.abs(Math.sin(Math.PI * p.pluckedAt));
      amplitude = first * 10 ** (p.secondOverFirstDb / 20);
    }
    const decay = p.decayS / (1 + 0.12 * (n - 1));
    const lines = p.splitCents > 0 ? [-p.splitCents / 2, p.splitCents / 2] : [0];
    for (const cents of lines) {
      const phase = 2 * Math.PI * rng();
      const w = (2 * Math.PI * f * 2 ** (cents / 1200)) / sampleRate;
      const glide = (p.glideCentsPerS * Math.LN2) / 1200 / sampleRate;
      // The pitch is the one in the middle of the frame.
      const middle = (out.length - 1) / 2;
      const fade = Math.exp(-1 / (decay * sampleRate));
      let level = amplitude / lines.length;
      // Turned sample by sample: the phase advances by w, and by a little more or less each time while it glides.
      let turn = w * (1 - glide * middle);
      let angle = phase - w * (middle - (glide * middle * middle) / 2);
      const more = w * glide;
      if (more === 0) {
        const [turnC, turnS] = [Math.cos(turn), Math.sin(turn)];
        let [c, s] = [Math.cos(angle), Math.sin(angle)];
        for (let i = 0; i < out.length; i++) {
          out[i] = (out[i] as number) + level * c;
          level *= fade;
          const next = c * turnC - s * turnS;
          s = s * turnC + c * turnS;
          c = next;
        }
        continue;
      }
      turn += more / 2;
      for (let i = 0; i < out.length; i++) {
        out[i] = (out[i] as number) + level * Math.cos(angle);
        level *= fade;
        angle += turn;
        turn += more;
      }
    }
  }
}

/**
 * A frame of a scene, peak about 0.5. The same random source gives the same frame.
 * @param rng uniform numbers in [0, 1)
 */
export function synthesize(scene: Scene, sampleRate: number, length: number, rng: () => number): Float32Array {
  const signal = new Float64Array(length);
  addString(signal, sampleRate, scene, rng);
  const power = (x: Float64Array) => x.reduce((sum, v) => sum + v * v, 0) / x.length;
  const own = power(signal);
  if (scene.neighbour) {
    const other = new Float64Array(length);
    const { firstPartialHz, levelDb } = scene.neighbour;
    addString(other, sampleRate, { ...PLAIN_PLUCK, firstPartialHz, weakBelowHz: scene.weakBelowHz }, rng);
    const gain = Math.sqrt((own / power(other)) * 10 ** (levelDb / 10));
    for (let i = 0; i < length; i++) signal[i] = (signal[i] as number) + gain * (other[i] as number);
  }
  if (scene.humDb !== null) {
    const level = Math.sqrt(own * 10 ** (scene.humDb / 10) * 2);
    for (const [harmonic, share] of [
      [1, 0.85],
      [2, 0.4],
      [3, 0.3],
    ] as const) {
      const phase = 2 * Math.PI * rng();
      const w = (2 * Math.PI * scene.humHz * harmonic) / sampleRate;
      for (let i = 0; i < length; i++) signal[i] = (signal[i] as number) + level * share * Math.cos(phase + w * i);
    }
  }
  const noise = Math.sqrt(own * 10 ** (-scene.snrDb / 10));
  let peak = 1e-9;
  for (let i = 0; i < length; i++) {
    signal[i] = (signal[i] as number) + noise * normal(rng);
    peak = Math.max(peak, Math.abs(signal[i] as number));
  }
  return Float32Array.from(signal, (v) => (v / peak) * 0.5);
}

/**
 * Cramér–Rao bound of the first partial's pitch, standard deviation in cents, for this scene with amplitudes, phases
 * and inharmonicity unknown and white noise: the Fisher information of f₁ and B, partials taken as resolved, each
 * partial's frequency known to 6 σ² / (π² a² T² N) Hz² (Rife and Boorstyn 1974).
 */
export function boundCents(scene: Scene, sampleRate: number, length: number): number {
  const T = length / sampleRate;
  const b = scene.inharmonicity;
  let [ff, fb, bb] = [0, 0, 0];
  let power = 0;
  const partials: { f: number; a2: number; n: number }[] = [];
  const count = Math.min(40, Math.floor((0.45 * sampleRate) / scene.firstPartialHz));
  for (let n = 1; n <= count; n++) {
    const f = partialHz(scene.firstPartialHz, b, n);
    if (f > 0.45 * sampleRate) break;
    const heard = f ** 2 / (f ** 2 + scene.weakBelowHz ** 2);
    const a = (heard * Math.abs(Math.sin(Math.PI * n * scene.pluckedAt))) / n;
    // Mean power over the decaying frame.
    const d = scene.decayS / (1 + 0.12 * (n - 1));
    const a2 = a * a * (d / (2 * T)) * (1 - Math.exp((-2 * T) / d));
    partials.push({ f, a2, n });
    power += a2 / 2;
  }
  const noise = power * 10 ** (-scene.snrDb / 10);
  for (const { f, a2, n } of partials) {
    const information = (Math.PI ** 2 * a2 * T * T * length) / (6 * noise);
    const df = f / scene.firstPartialHz;
    const db = (f * (n * n - 1)) / (2 * (1 + b * n * n) * (1 + b));
    ff += information * df * df;
    fb += information * df * db;
    bb += information * db * db;
  }
  const variance = bb > 0 ? 1 / (ff - (fb * fb) / bb) : 1 / ff;
  return (Math.sqrt(variance) / scene.firstPartialHz) * (1200 / Math.LN2);
}
