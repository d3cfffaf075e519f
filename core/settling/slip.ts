import type { Tuner } from '../instruments/build';
import { TUNER } from '../parts/tuners';

/** Share of the pull lost by a drop of `cents`: ΔT/T = 1 − 2^(−c/600), since pitch goes with the root of the pull. */
export function pullLost(cents: number): number {
  return 1 - 2 ** (-cents / 600);
}

/**
 * How far a string slipped, in mm, to fall by `cents`: ΔT · L / (E · A) of its core over the whole length under pull.
 * On plain steel a semitone is well under a millimetre.
 */
export function slipMm(p: {
  cents: number;
  tensionN: number;
  totalLengthMm: number;
  coreMm: number;
  modulusMpa: number;
}): number {
  const areaMm2 = (Math.PI * p.coreMm ** 2) / 4;
  return (pullLost(p.cents) * p.tensionN * p.totalLengthMm) / (p.modulusMpa * areaMm2);
}

/** Turns of the button that take up `mm` of string on a post: mm / (π (D + d)) × gear ratio. */
export function buttonTurns(mm: number, postDiameterMm: number, gaugeMm: number, tuner: Tuner): number {
  return (mm / (Math.PI * (postDiameterMm + gaugeMm))) * TUNER[tuner].gearRatio;
}
