/**
 * Tension in N of a string at pitch: T = μ (2 L f)² (Mersenne; Taylor).
 * @param massKgPerM mass per length in kg/m
 * @param speakingLengthMm nut to bridge in mm
 */
export function tensionN(massKgPerM: number, speakingLengthMm: number, frequencyHz: number): number {
  return massKgPerM * ((2 * speakingLengthMm * frequencyHz) / 1000) ** 2;
}

/** Stress in MPa of a tension in N carried by a round core of `diameterMm`. */
export function stressMpa(tension: number, diameterMm: number): number {
  return tension / ((Math.PI * diameterMm ** 2) / 4);
}

/**
 * Length in mm a string gives by elastic stretch when brought from slack to pitch: T · L / (E · A) of its core.
 * @param freeLengthMm everything under tension, post to tail end, in mm
 */
export function elasticTakeUpMm(p: {
  tensionN: number;
  freeLengthMm: number;
  coreMm: number;
  modulusMpa: number;
}): number {
  return (stressMpa(p.tensionN, p.coreMm) * p.freeLengthMm) / p.modulusMpa;
}

/** Gauge in thousandths of an inch of a diameter in mm. */
export const thouOf = (mm: number): number => mm / 0.0254;
/** Diameter in mm of a gauge in thousandths of an inch. */
export const mmOfThou = (thou: number): number => thou * 0.0254;
