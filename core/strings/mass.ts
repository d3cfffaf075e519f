import { type CoreMaterial, DENSITY_KG_M3, type Material } from './materials';

/** How a string is made, as far as its mass and stiffness need it. */
export interface StringBuild {
  /** Outer diameter in mm. */
  gaugeMm: number;
  core: CoreMaterial;
  /** The wrap of a wound string; null for a plain one. */
  wrap: Material | null;
  /** Core diameter in mm; for a plain string equal to the gauge. */
  coreMm: number;
  /** Measured or published mass in kg/m, preferred over the computed one when known. */
  massKgPerM?: number | null;
}

const MM2_TO_M2 = 1e-6;

/** Mass in kg/m of a solid round string of diameter `diameterMm`: ρ π d²/4. */
export function plainMassKgPerM(diameterMm: number, densityKgM3: number): number {
  return ((densityKgM3 * Math.PI * diameterMm ** 2) / 4) * MM2_TO_M2;
}

/**
 * Mass in kg/m of a core under one close layer of round wire: ρc π dc²/4 + ρw π² dw (dc + dw)/4.
 * The wire is taken as closed rings, which reads up to 1 % below the exact helix on thick wraps.
 */
export function woundMassKgPerM(p: {
  coreMm: number;
  wrapMm: number;
  coreDensityKgM3: number;
  wrapDensityKgM3: number;
}): number {
  const core = plainMassKgPerM(p.coreMm, p.coreDensityKgM3);
  return core + ((p.wrapDensityKgM3 * Math.PI ** 2 * p.wrapMm * (p.coreMm + p.wrapMm)) / 4) * MM2_TO_M2;
}

/** Mass in kg/m of a string: the measured one if known, else computed from its build. */
export function massKgPerM(s: StringBuild): number {
  if (s.massKgPerM) return s.massKgPerM;
  if (!s.wrap) return plainMassKgPerM(s.gaugeMm, DENSITY_KG_M3[s.core]);
  return woundMassKgPerM({
    coreMm: s.coreMm,
    wrapMm: (s.gaugeMm - s.coreMm) / 2,
    coreDensityKgM3: DENSITY_KG_M3[s.core],
    wrapDensityKgM3: DENSITY_KG_M3[s.wrap],
  });
}
