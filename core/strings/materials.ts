/**
 * Density in kg/m³ of string materials: room-temperature values from engineering handbooks.
 * Gut and composite vary by maker; a measured mass per length is better where there is one.
 */
export const DENSITY_KG_M3 = {
  steel: 7850,
  nickel: 8900,
  // Steel wire under a thin nickel plating weighs as steel does.
  'nickel-plated-steel': 7850,
  'phosphor-bronze': 8800,
  'brass-bronze': 8600,
  copper: 8960,
  silver: 10490,
  aluminium: 2700,
  tungsten: 19300,
  nylon: 1140,
  fluorocarbon: 1780,
  gut: 1300,
  composite: 1150,
  rope: 7850,
} as const;

export type Material = keyof typeof DENSITY_KG_M3;

export const CORE_MATERIALS = ['steel', 'rope', 'nylon', 'fluorocarbon', 'gut', 'composite'] as const;
export type CoreMaterial = (typeof CORE_MATERIALS)[number];

export const WRAP_MATERIALS = [
  'nickel-plated-steel',
  'nickel',
  'steel',
  'phosphor-bronze',
  'brass-bronze',
  'copper',
  'silver',
  'aluminium',
  'tungsten',
  'nylon',
] as const satisfies readonly Material[];

export const MATERIAL_NAMES: Record<Material, string> = {
  steel: 'steel',
  nickel: 'nickel',
  'nickel-plated-steel': 'nickel-plated steel',
  'phosphor-bronze': 'phosphor bronze',
  'brass-bronze': 'brass bronze',
  copper: 'silvered copper',
  silver: 'silver',
  aluminium: 'aluminium',
  tungsten: 'tungsten',
  nylon: 'nylon',
  fluorocarbon: 'fluorocarbon',
  gut: 'gut',
  composite: 'composite',
  rope: 'steel rope',
};

/**
 * Young's modulus in MPa of the materials that carry the pull. Steel is a handbook value; drawn polymers and gut
 * are mid-range values, so lengths taken up elastically are estimates there.
 */
const MODULUS_MPA: Record<CoreMaterial, number> = {
  steel: 207_000,
  rope: 90_000,
  nylon: 4_500,
  fluorocarbon: 3_500,
  gut: 5_500,
  composite: 6_000,
};

/**
 * Share of the core's circle that is material: a rope of round wires and a multi-strand composite carry less than a
 * solid of the same outer diameter (seven equal wires fill 7/9).
 */
const FILL: Record<CoreMaterial, number> = { steel: 1, rope: 7 / 9, nylon: 1, fluorocarbon: 1, gut: 1, composite: 0.8 };

/** Tensile strength in MPa of drawn monofilaments: mid-range handbook values, from memory. Null: not for judging. */
const STRENGTH_MPA: Record<CoreMaterial, number | null> = {
  steel: null,
  rope: null,
  nylon: 750,
  fluorocarbon: 720,
  gut: 360,
  composite: null,
};

export const modulusMpa = (core: CoreMaterial): number => MODULUS_MPA[core];

/** Density in kg/m³ of a core as built, air between its strands counted in. */
export const coreDensityKgM3 = (core: CoreMaterial): number => DENSITY_KG_M3[core] * FILL[core];

/**
 * Tensile strength in MPa of a solid core: music wire by Sut = 2211 · d^−0.145 (d in mm; ASTM A228 as tabulated in
 * machine-design textbooks), polymers and gut by a mid-range value. Null where a core is not a solid and a single
 * figure would mislead.
 */
export function strengthMpa(core: CoreMaterial, diameterMm: number): number | null {
  return core === 'steel' ? 2211 * diameterMm ** -0.145 : STRENGTH_MPA[core];
}
