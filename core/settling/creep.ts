import type { CoreMaterial } from '../strings/materials';
import { SETTLES_HOURS } from './readyBy';

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

/** Prior of the creep of one kind of string: medians and standard deviations of the logarithms. */
interface CreepPrior {
  median: Creep;
  sdLogAmount: number;
  sdLogTime: number;
}

const NORMAL_90 = 1.2815515655446004;

/**
 * What is believed before anything is measured: the quick and the careful settling hours of common practice, put so
 * that the geometric middle is the median and the careful figure holds nine times in ten.
 */
export function creepPrior(core: CoreMaterial): CreepPrior {
  const { quick, careful } = SETTLES_HOURS[core];
  const metal = core === 'steel' || core === 'rope';
  const timeConstantDays = metal ? 0.02 : 0.01;
  // The inverse of readyAfterDays: the amount that makes a string ready just then.
  const amountFor = (hours: number) => READY_CENTS_A_DAY / Math.log1p(1 / (hours / 24 + timeConstantDays));
  const middle = amountFor(Math.sqrt(quick * careful));
  return {
    median: { amountCents: middle, timeConstantDays },
    sdLogAmount: Math.log(amountFor(careful) / middle) / NORMAL_90,
    sdLogTime: 0.8,
  };
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
}

/** Spread of an honest reading with a tuner, in cents; the tails of Student's t with 4 degrees bear a bad one. */
const READING_SD_CENTS = 3;
const T_DEGREES = 4;
const DOUBTFUL_CENTS = 5 * READING_SD_CENTS;
const AMOUNT_STEPS = 61;
const TIME_STEPS = 25;

/**
 * Creep of one string from what is believed of its kind and the retunes logged so far: the whole posterior on a grid
 * of both parameters, with a heavy-tailed error so that one bad reading does not decide. With few readings the time
 * constant stays poorly known, but the time at which the instrument is ready does not: that is what is reported.
 * @throws RangeError when times do not rise or are not finite
 */
export function fitCreep(core: CoreMaterial, retunes: readonly Retune[], limitCentsADay = READY_CENTS_A_DAY): CreepFit {
  let previous = 0;
  for (const r of retunes) {
    if (!(r.atDays > previous) || !Number.isFinite(r.flatCents))
      throw new RangeError('Retunes come in the order of their times, each later than the one before.');
    previous = r.atDays;
  }
  const prior = creepPrior(core);
  const grid: { creep: Creep; weight: number; ready: number }[] = [];
  // Readings may lie far from what is believed, so the grid reaches four deviations and a factor of three beyond.
  const reach = 4 * prior.sdLogAmount + 1.1;
  const logWeights: number[] = [];
  for (let i = 0; i < AMOUNT_STEPS; i++) {
    const za = (-1 + (2 * i) / (AMOUNT_STEPS - 1)) * reach;
    for (let j = 0; j < TIME_STEPS; j++) {
      const zt = (-1 + (2 * j) / (TIME_STEPS - 1)) * 3 * prior.sdLogTime;
      const creep = {
        amountCents: prior.median.amountCents * Math.exp(za),
        timeConstantDays: prior.median.timeConstantDays * Math.exp(zt),
      };
      let log = -((za / prior.sdLogAmount) ** 2 + (zt / prior.sdLogTime) ** 2) / 2;
      let before = 0;
      for (const r of retunes) {
        const now = driftCents(creep, r.atDays);
        const off = (r.flatCents - (now - before)) / READING_SD_CENTS;
        log -= ((T_DEGREES + 1) / 2) * Math.log1p(off ** 2 / T_DEGREES);
        before = now;
      }
      logWeights.push(log);
      grid.push({ creep, weight: 0, ready: readyAfterDays(creep, limitCentsADay) });
    }
  }
  const top = Math.max(...logWeights);
  let total = 0;
  for (const [k, cell] of grid.entries()) {
    cell.weight = Math.exp((logWeights[k] as number) - top);
    total += cell.weight;
  }
  const sorted = [...grid].sort((a, b) => a.ready - b.ready);
  const quantile = (share: number): number => {
    let sum = 0;
    for (const cell of sorted) {
      sum += cell.weight;
      if (sum >= share * total) return cell.ready;
    }
    return sorted.at(-1)?.ready ?? 0;
  };
  const mean = (get: (c: Creep) => number) =>
    Math.exp(grid.reduce((sum, cell) => sum + cell.weight * Math.log(get(cell.creep)), 0) / total);
  const median = { amountCents: mean((c) => c.amountCents), timeConstantDays: mean((c) => c.timeConstantDays) };
  const doubtful = retunes.flatMap((r, i) => {
    const before = i === 0 ? 0 : driftCents(median, (retunes[i - 1] as Retune).atDays);
    return Math.abs(r.flatCents - (driftCents(median, r.atDays) - before)) > DOUBTFUL_CENTS ? [i] : [];
  });
  return { median, readyDays: { early: quantile(0.1), middle: quantile(0.5), late: quantile(0.9) }, doubtful };
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
