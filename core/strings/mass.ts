import { type CoreMaterial, coreDensityKgM3, DENSITY_KG_M3, type Material } from './materials';

/** How a string is made, as far as its mass and stiffness need it. */
export interface StringBuild {
  /** Outer diameter in mm. */
  gaugeMm: number;
  core: CoreMaterial;
  /** The wrap of a wound string; null for a plain one. */
  wrap: Material | null;
  /** Core diameter in mm; for a plain string equal to the gauge. */
  coreMm: number;
  /** Shape of the wrap, round when not said. */
  wrapShape?: 'round' | 'flat';
  /** Measured or published mass in kg/m, preferred over the computed one when known. */
  massKgPerM?: number | null;
}

/** One close layer around what is below it. */
export interface Layer {
  material: Material;
  shape: 'round' | 'flat';
  /** Diameter of round wire, thickness of ribbon, in mm. */
  thicknessMm: number;
}

const MM2_TO_M2 = 1e-6;

/** Mass in kg/m of a solid round string of diameter `diameterMm`: ρ π d²/4. */
export function plainMassKgPerM(diameterMm: number, densityKgM3: number): number {
  return ((densityKgM3 * Math.PI * diameterMm ** 2) / 4) * MM2_TO_M2;
}

/**
 * Mass in kg/m of one close layer on a diameter D (mm). Round wire of diameter w: ρ π² w (D + w)/4, taken as closed
 * rings, which reads up to 1 % low on thick wraps. Flat ribbon of thickness t, edges touching: the ring ρ π t (D + t).
 * @param exactHelix the length of the helix instead of closed rings: each turn advances by w
 */
export function layerMassKgPerM(underMm: number, layer: Layer, exactHelix = false): number {
  const { thicknessMm: w } = layer;
  const density = DENSITY_KG_M3[layer.material];
  if (layer.shape === 'flat') return density * Math.PI * w * (underMm + w) * MM2_TO_M2;
  const rings = ((density * Math.PI ** 2 * w * (underMm + w)) / 4) * MM2_TO_M2;
  return exactHelix ? rings * Math.hypot(1, w / (Math.PI * (underMm + w))) : rings;
}

/**
 * Mass in kg/m of a core under any number of close layers, inside out: silk or nylon under-wraps, a second wrap on
 * heavy bass strings, ribbon on the outside of a flat-wound.
 */
export function layeredMassKgPerM(
  core: { diameterMm: number; densityKgM3: number },
  layers: readonly Layer[],
  exactHelix = false,
): { massKgPerM: number; gaugeMm: number } {
  let mass = plainMassKgPerM(core.diameterMm, core.densityKgM3);
  let under = core.diameterMm;
  for (const layer of layers) {
    mass += layerMassKgPerM(under, layer, exactHelix);
    under += 2 * layer.thicknessMm;
  }
  return { massKgPerM: mass, gaugeMm: under };
}

/** Mass in kg/m of a string: the measured one if known, else computed from its build with one layer of wrap. */
export function massKgPerM(s: StringBuild): number {
  if (s.massKgPerM) return s.massKgPerM;
  const density = coreDensityKgM3(s.core);
  if (!s.wrap) return plainMassKgPerM(s.gaugeMm, density);
  const layer: Layer = {
    material: s.wrap,
    shape: s.wrapShape ?? 'round',
    thicknessMm: (s.gaugeMm - s.coreMm) / 2,
  };
  return layeredMassKgPerM({ diameterMm: s.coreMm, densityKgM3: density }, [layer]).massKgPerM;
}

/**
 * Mass in kg/m from a kitchen-scale weighing of a length without its ball.
 * @throws RangeError when either is not positive
 */
export function massFromWeighing(grams: number, lengthMm: number): number {
  if (!(grams > 0) || !(lengthMm > 0)) throw new RangeError('Weigh a piece of string: grams and mm above nothing.');
  return grams / lengthMm;
}
