import { CORE } from '../parts/cores';
import type { CoreMaterial } from '../strings/materials';

/**
 * Creep of a new string: flat by D(t) = a · ln(1 + t/τ) cents after t days, if nobody retunes it. Logarithmic creep is
 * what stretched polymers and wound strings show over hours to days.
 */
export interface Creep {
  /** a in cents. */
  amountCents: number;
  /** τ in days. */
  timeConstantDays: number;
}

/** Cents flat after `days` without retuning. */
export function driftCents(c: Creep, days: number): number {
  return c.amountCents * Math.log1p(Math.max(0, days) / c.timeConstantDays);
}

/**
 * The day from which an instrument holds well enough.
 * - `next-day`: over the following day it falls by no more than the limit: a · ln(1 + 1/(t + τ)) ≤ limit
 * - `rate`: at that moment it falls no faster than the limit a day: a / (t + τ) ≤ limit
 */
export function readyAfterDays(c: Creep, limitCentsADay: number, form: 'next-day' | 'rate' = 'next-day'): number {
  const { amountCents: a, timeConstantDays: tau } = c;
  const t = form === 'rate' ? a / limitCentsADay - tau : 1 / Math.expm1(limitCentsADay / a) - tau;
  return Math.max(0, t);
}

/** What an instrument may fall in a day and still count as ready, in cents. */
export const READY_CENTS_A_DAY = 12;

/**
 * What is believed of one kind of string before anything is measured: when it is ready, and by which time constant it
 * creeps. The two are believed apart, since the hours of common practice speak of the one and say nothing of the other.
 */
interface CreepPrior {
  readyDays: number;
  sdLogReady: number;
  timeConstantDays: number;
  sdLogTime: number;
}

const NORMAL_90 = 1.2815515655446004;

/**
 * The quick and the careful settling hours of common practice, put so that their geometric middle is the median and the
 * careful figure holds nine times in ten.
 */
function priorOf(core: CoreMaterial): CreepPrior {
  const { quick, careful } = CORE[core].settlesHours;
  const metal = core === 'steel' || core === 'rope';
  const middle = Math.sqrt(quick * careful) / 24;
  return {
    readyDays: middle,
    sdLogReady: Math.log(careful / 24 / middle) / NORMAL_90,
    timeConstantDays: metal ? 0.02 : 0.01,
    sdLogTime: 0.8,
  };
}

/** The creep that makes a string ready after so many days by this time constant: the inverse of readyAfterDays. */
const creepReadyAfter = (readyDays: number, timeConstantDays: number, limitCentsADay: number): Creep => ({
  amountCents: limitCentsADay / Math.log1p(1 / (readyDays + timeConstantDays)),
  timeConstantDays,
});

/** The creep believed of a kind of string before anything is measured. */
export function usualCreep(core: CoreMaterial): Creep {
  const prior = priorOf(core);
  return creepReadyAfter(prior.readyDays, prior.timeConstantDays, READY_CENTS_A_DAY);
}

/** A retune: when, and how flat the string had gone since the one before (or since it was first brought to pitch). */
export interface Retune {
  /** Days since the string was stretched and first at pitch. */
  atDays: number;
  flatCents: number;
}

export interface CreepFit {
  median: Creep;
  /** Days after which it is ready: in one case of ten already, in half of them, in nine of ten. */
  readyDays: { early: number; middle: number; late: number };
  /** Retunes that do not fit the rest and hardly counted, by place in the list. */
  doubtful: number[];
  /** It falls faster than before: it slips, and when it is ready nobody can say. */
  slips: boolean;
}

/** Spread of an honest reading with a tuner, in cents; the tails of Student's t with 4 degrees bear a bad one. */
const READING_SD_CENTS = 2;
const T_DEGREES = 4;
const DOUBTFUL_CENTS = 15;
const READY_STEPS = 73;
const TIME_STEPS = 49;
/** Days between which the ready time and the time constant are looked for: strings are met that creep for weeks. */
const READY_RANGE = { from: 0.02, to: 60 };
const TIME_RANGE = { from: 0.0008, to: 12 };
/** Beliefs of both have tails as heavy as those of the readings: what is measured outweighs them. */
const PRIOR_DEGREES = 4;
/** A rate that grows by so many of its standard deviations is no creep. */
const SLIP_DEVIATIONS = 2;

const logT = (z: number, degrees: number): number => -((degrees + 1) / 2) * Math.log1p((z * z) / degrees);
const logSteps = ({ from, to }: { from: number; to: number }, steps: number): number[] =>
  Array.from({ length: steps }, (_, i) => from * (to / from) ** (i / (steps - 1)));

/**
 * Whether a string falls faster than it did before. Creep only ever slows down: what grows from visit to visit slips at
 * the tail or at the post, and no waiting cures it.
 */
export function slips(retunes: readonly Retune[], limitCentsADay = READY_CENTS_A_DAY): boolean {
  const rates = retunes.map((r, i) => {
    const days = r.atDays - (retunes[i - 1]?.atDays ?? 0);
    return { perDay: r.flatCents / days, sd: READING_SD_CENTS / days };
  });
  const last = rates.at(-1);
  if (!last || last.perDay <= limitCentsADay) return false;
  return rates
    .slice(0, -1)
    .some((r) => last.perDay - r.perDay > SLIP_DEVIATIONS * Math.hypot(last.sd, r.sd) && r.perDay >= 0);
}

/**
 * Creep of one string from what is believed of its kind and the retunes logged so far: the whole posterior on a grid of
 * ready time and time constant, with heavy-tailed errors so that one bad reading does not decide. With few readings the
 * time constant stays poorly known, but the time at which the instrument is ready does not: that is what is reported.
 * @throws RangeError when times do not rise or are not finite
 */
export function fitCreep(core: CoreMaterial, retunes: readonly Retune[], limitCentsADay = READY_CENTS_A_DAY): CreepFit {
  let previous = 0;
  for (const r of retunes) {
    if (!(r.atDays > previous) || !Number.isFinite(r.flatCents))
      throw new RangeError('Retunes come in the order of their times, each later than the one before.');
    previous = r.atDays;
  }
  const prior = priorOf(core);
  const readies = logSteps(READY_RANGE, READY_STEPS);
  const constants = logSteps(TIME_RANGE, TIME_STEPS);
  // Before anything is measured the settling hours are all there is: they are believed as they are said.
  const believed = (z: number) => (retunes.length === 0 ? -(z * z) / 2 : logT(z, PRIOR_DEGREES));
  const timeLogs = constants.map((tau) => believed(Math.log(tau / prior.timeConstantDays) / prior.sdLogTime));
  const cells: { creep: Creep; log: number; ready: number }[] = [];
  let top = Number.NEGATIVE_INFINITY;
  for (const ready of readies) {
    const readyLog = believed(Math.log(ready / prior.readyDays) / prior.sdLogReady);
    for (const [j, tau] of constants.entries()) {
      const creep = creepReadyAfter(ready, tau, limitCentsADay);
      let log = readyLog + (timeLogs[j] as number);
      let before = 0;
      for (const r of retunes) {
        const now = driftCents(creep, r.atDays);
        log += logT((r.flatCents - (now - before)) / READING_SD_CENTS, T_DEGREES);
        before = now;
      }
      top = Math.max(top, log);
      cells.push({ creep, log, ready });
    }
  }
  const weights = cells.map((cell) => Math.exp(cell.log - top));
  const total = weights.reduce((sum, w) => sum + w, 0);
  // Cells come in the order of their ready times.
  const byReady = readies.map((_, i) => weights.slice(i * TIME_STEPS, (i + 1) * TIME_STEPS).reduce((a, w) => a + w, 0));
  const quantile = (share: number): number => {
    let sum = 0;
    for (const [i, weight] of byReady.entries()) {
      if (sum + weight >= share * total) {
        // Within a step of the grid, in proportion.
        const step = Math.log((readies[1] as number) / (readies[0] as number));
        return (readies[i] as number) * Math.exp(step * ((share * total - sum) / weight - 0.5));
      }
      sum += weight;
    }
    return readies.at(-1) as number;
  };
  const mean = (get: (c: Creep) => number) =>
    Math.exp(cells.reduce((sum, cell, k) => sum + (weights[k] as number) * Math.log(get(cell.creep)), 0) / total);
  const median = { amountCents: mean((c) => c.amountCents), timeConstantDays: mean((c) => c.timeConstantDays) };
  const doubtful = retunes.flatMap((r, i) => {
    const before = i === 0 ? 0 : driftCents(median, (retunes[i - 1] as Retune).atDays);
    return Math.abs(r.flatCents - (driftCents(median, r.atDays) - before)) > DOUBTFUL_CENTS ? [i] : [];
  });
  return {
    median,
    readyDays: { early: quantile(0.1), middle: quantile(0.5), late: quantile(0.9) },
    doubtful,
    slips: slips(retunes, limitCentsADay),
  };
}

/**
 * The best times, in days, for a number of retune visits up to a last one: each visit then finds the string equally
 * flat, which keeps the worst moment between visits as small as it can be.
 * t_j = τ ((1 + T/τ)^(j/k) − 1), from equal steps of a · ln(1 + t/τ).
 */
export function visitDays(c: Creep, lastDays: number, visits: number): number[] {
  const { timeConstantDays: tau } = c;
  return Array.from({ length: visits }, (_, j) => tau * ((1 + lastDays / tau) ** ((j + 1) / visits) - 1));
}
