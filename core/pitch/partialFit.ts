/**
 * Joint least-squares fit of a stiff string's partials: x(t) ≈ Σ a_n cos ω_n t + b_n sin ω_n t with
 * f_n = n f₁ √((1 + B n²)/(1 + B)), the amplitudes solved for and the two parameters f₁ and B improved by
 * Gauss–Newton steps on the projected residual (variable projection, Kaufman's form). The time index is centred, so
 * that cosines and sines separate and their inner products have closed forms.
 *
 * All buffers are allocated once for the largest frame and number of partials.
 */
export class PartialFit {
  private readonly cosSum: Float64Array;
  private readonly sinSum: Float64Array;
  private readonly gramCos: Float64Array;
  private readonly gramSin: Float64Array;
  private readonly model: Float64Array;
  private readonly byF: Float64Array;
  private readonly byB: Float64Array;
  private readonly omega: Float64Array;
  private readonly amplitudeCos: Float64Array;
  private readonly amplitudeSin: Float64Array;
  private readonly right: Float64Array[];
  private readonly columns: number;
  private readonly partials: number;
  /** Partials among the columns in use; the rest are lines. */
  private used = 0;

  constructor(
    maxSamples: number,
    maxPartials: number,
    /** Steady lines that are fitted beside the partials, in Hz: mains hum. */
    private readonly lines: readonly number[] = [],
  ) {
    const k = maxPartials + lines.length;
    this.columns = k;
    this.partials = maxPartials;
    this.cosSum = new Float64Array(k);
    this.sinSum = new Float64Array(k);
    this.gramCos = new Float64Array(k * k);
    this.gramSin = new Float64Array(k * k);
    this.model = new Float64Array(maxSamples);
    this.byF = new Float64Array(maxSamples);
    this.byB = new Float64Array(maxSamples);
    this.omega = new Float64Array(k);
    this.amplitudeCos = new Float64Array(k);
    this.amplitudeSin = new Float64Array(k);
    this.right = Array.from({ length: 4 }, () => new Float64Array(k));
  }

  /**
   * Improves f₁ (Hz) and B from a start close enough that every partial is within half a bin.
   * @param x samples, only the first `length` are read
   * @param fitB keep B as it is when false: with few partials it cannot be told
   * @returns the fit, or null when the equations have no solution
   */
  improve(
    x: Float64Array,
    length: number,
    sampleRate: number,
    start: { f1: number; b: number },
    partials: number,
    steps: number,
    fitB: boolean,
  ): { f1: number; b: number; sdHz: number; residualShare: number } | null {
    let { f1, b } = start;
    let sdHz = Number.POSITIVE_INFINITY;
    let residualShare = 1;
    let total = 0;
    for (let i = 0; i < length; i++) total += (x[i] as number) ** 2;
    if (total <= 0) return null;
    for (let step = 0; step < steps; step++) {
      const k = this.prepare(f1, b, partials, sampleRate, length);
      if (k === 0) return null;
      this.correlate(x, length, k);
      const { amplitudeCos: a, amplitudeSin: c } = this;
      a.set(this.cosSum.subarray(0, k));
      c.set(this.sinSum.subarray(0, k));
      solve(this.gramCos, k, this.columns, a);
      solve(this.gramSin, k, this.columns, c);
      const residual = this.synthesize(x, length, k, f1, b);
      residualShare = residual / total;
      // The derivative columns less what the partials themselves can take up.
      const [fc, fs, bc, bs] = this.right as [Float64Array, Float64Array, Float64Array, Float64Array];
      this.project(this.byF, length, k, fc, fs);
      this.project(this.byB, length, k, bc, bs);
      let [ff, fb, bb, fr, br] = [0, 0, 0, 0, 0];
      for (let i = 0; i < length; i++) {
        const df = this.byF[i] as number;
        const db = this.byB[i] as number;
        const r = (x[i] as number) - (this.model[i] as number);
        ff += df * df;
        fb += df * db;
        bb += db * db;
        fr += df * r;
        br += db * r;
      }
      const noise = residual / Math.max(1, length - 2 * k - 2);
      const determinant = ff * bb - fb * fb;
      const both = fitB && determinant > 1e-9 * ff * bb && bb > 0;
      if (ff <= 0) return null;
      const moveF = both ? (bb * fr - fb * br) / determinant : fr / ff;
      const moveB = both ? (ff * br - fb * fr) / determinant : 0;
      sdHz = Math.sqrt(both ? (noise * bb) / determinant : noise / ff);
      // A step beyond where the model is nearly straight is cut short.
      const limit = (0.35 * sampleRate) / length / Math.max(1, k / 3);
      f1 += Math.max(-limit, Math.min(limit, moveF));
      b = Math.max(-2e-5, Math.min(4e-3, b + Math.max(-2e-4, Math.min(2e-4, moveB))));
      if (!Number.isFinite(f1) || f1 <= 0) return null;
      // Converged to a few thousandths of a cent, or well within its own uncertainty.
      if (Math.abs(moveF) < Math.max(2e-6 * f1, 0.08 * sdHz) && Math.abs(moveB) < 2e-6) break;
    }
    return { f1, b, sdHz, residualShare };
  }

  /** Frequencies and the closed-form Gram matrices; returns how many partials fit below the band's edge. */
  private prepare(f1: number, b: number, partials: number, sampleRate: number, length: number): number {
    let k = 0;
    for (let n = 1; n <= Math.min(partials, this.partials); n++) {
      const f = n * f1 * Math.sqrt((1 + b * n * n) / (1 + b));
      if (f > 0.44 * sampleRate) break;
      this.omega[k] = (2 * Math.PI * f) / sampleRate;
      k += 1;
    }
    this.used = k;
    // A line too near to a partial cannot be told from it in this frame.
    const apart = (1.1 * 2 * Math.PI) / length;
    for (const line of this.lines) {
      const w = (2 * Math.PI * line) / sampleRate;
      let clear = w < 0.9 * Math.PI;
      for (let i = 0; i < this.used; i++) if (Math.abs((this.omega[i] as number) - w) < apart) clear = false;
      if (!clear) continue;
      this.omega[k] = w;
      k += 1;
    }
    const kernel = (w: number) => {
      const s = Math.sin(w / 2);
      return Math.abs(s) < 1e-12 ? length : Math.sin((w * length) / 2) / s;
    };
    const stride = this.columns;
    for (let i = 0; i < k; i++) {
      for (let j = 0; j <= i; j++) {
        const difference = kernel((this.omega[i] as number) - (this.omega[j] as number));
        const sum = kernel((this.omega[i] as number) + (this.omega[j] as number));
        this.gramCos[i * stride + j] = (difference + sum) / 2;
        this.gramSin[i * stride + j] = (difference - sum) / 2;
      }
      // A trace of damping keeps partials in the noise from blowing up.
      this.gramCos[i * stride + i] = (this.gramCos[i * stride + i] as number) * (1 + 1e-9) + 1e-9;
      this.gramSin[i * stride + i] = (this.gramSin[i * stride + i] as number) * (1 + 1e-9) + 1e-9;
    }
    factor(this.gramCos, k, stride);
    factor(this.gramSin, k, stride);
    return k;
  }

  /** Inner products of a signal with every cosine and sine. */
  private correlate(x: Float64Array, length: number, k: number, intoCos = this.cosSum, intoSin = this.sinSum): void {
    const middle = (length - 1) / 2;
    for (let n = 0; n < k; n++) {
      const w = this.omega[n] as number;
      const [turnC, turnS] = [Math.cos(w), Math.sin(w)];
      let c = Math.cos(-w * middle);
      let s = Math.sin(-w * middle);
      let sumC = 0;
      let sumS = 0;
      for (let i = 0; i < length; i++) {
        const v = x[i] as number;
        sumC += v * c;
        sumS += v * s;
        const next = c * turnC - s * turnS;
        s = s * turnC + c * turnS;
        c = next;
      }
      intoCos[n] = sumC;
      intoSin[n] = sumS;
    }
  }

  /** The model and its derivatives by f₁ and B; returns the squared residual. */
  private synthesize(x: Float64Array, length: number, k: number, f1: number, b: number): number {
    const { model, byF, byB } = this;
    model.fill(0, 0, length);
    byF.fill(0, 0, length);
    byB.fill(0, 0, length);
    const middle = (length - 1) / 2;
    for (let n = 0; n < k; n++) {
      const w = this.omega[n] as number;
      const a = this.amplitudeCos[n] as number;
      const d = this.amplitudeSin[n] as number;
      const order = (n + 1) ** 2;
      const moves = n < this.used;
      const perF = moves ? w / f1 : 0;
      const perB = moves ? (w * (order - 1)) / (2 * (1 + b * order) * (1 + b)) : 0;
      const [turnC, turnS] = [Math.cos(w), Math.sin(w)];
      let c = Math.cos(-w * middle);
      let s = Math.sin(-w * middle);
      for (let i = 0; i < length; i++) {
        const t = i - middle;
        model[i] = (model[i] as number) + a * c + d * s;
        const slope = t * (d * c - a * s);
        byF[i] = (byF[i] as number) + perF * slope;
        byB[i] = (byB[i] as number) + perB * slope;
        const next = c * turnC - s * turnS;
        s = s * turnC + c * turnS;
        c = next;
      }
    }
    let residual = 0;
    for (let i = 0; i < length; i++) residual += ((x[i] as number) - (model[i] as number)) ** 2;
    return residual;
  }

  /** Takes from a column what the cosines and sines can make. */
  private project(column: Float64Array, length: number, k: number, cos: Float64Array, sin: Float64Array): void {
    this.correlate(column, length, k, cos, sin);
    solve(this.gramCos, k, this.columns, cos);
    solve(this.gramSin, k, this.columns, sin);
    const middle = (length - 1) / 2;
    for (let n = 0; n < k; n++) {
      const w = this.omega[n] as number;
      const a = cos[n] as number;
      const d = sin[n] as number;
      const [turnC, turnS] = [Math.cos(w), Math.sin(w)];
      let c = Math.cos(-w * middle);
      let s = Math.sin(-w * middle);
      for (let i = 0; i < length; i++) {
        column[i] = (column[i] as number) - a * c - d * s;
        const next = c * turnC - s * turnS;
        s = s * turnC + c * turnS;
        c = next;
      }
    }
  }
}

/** Cholesky factor of the lower triangle, in place; a pivot that vanishes is set to one and its column left out. */
function factor(m: Float64Array, k: number, stride: number): void {
  for (let j = 0; j < k; j++) {
    let pivot = m[j * stride + j] as number;
    for (let p = 0; p < j; p++) pivot -= (m[j * stride + p] as number) ** 2;
    const root = pivot > 1e-12 ? Math.sqrt(pivot) : Number.POSITIVE_INFINITY;
    m[j * stride + j] = root;
    for (let i = j + 1; i < k; i++) {
      let v = m[i * stride + j] as number;
      for (let p = 0; p < j; p++) v -= (m[i * stride + p] as number) * (m[j * stride + p] as number);
      m[i * stride + j] = v / root;
    }
  }
}

/** Solves with a Cholesky factor, in place. */
function solve(m: Float64Array, k: number, stride: number, v: Float64Array): void {
  for (let i = 0; i < k; i++) {
    let s = v[i] as number;
    for (let p = 0; p < i; p++) s -= (m[i * stride + p] as number) * (v[p] as number);
    v[i] = s / (m[i * stride + i] as number);
  }
  for (let i = k - 1; i >= 0; i--) {
    let s = v[i] as number;
    for (let p = i + 1; p < k; p++) s -= (m[p * stride + i] as number) * (v[p] as number);
    v[i] = s / (m[i * stride + i] as number);
  }
}
