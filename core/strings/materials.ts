/**
 * Density in kg/m³ of string materials: room-temperature values from engineering handbooks.
 * Gut and composite vary by maker; a measured mass per length is better where there is one.
 */
export const DENSITY_KG_M3 = {
  steel: 7850,
  nickel: 8900,
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

/**
 * Young's modulus in MPa of the materials that carry the pull. Steel is a handbook value; drawn polymers and gut
 * are mid-range values, so lengths taken up elastically are estimates there.
 */
const MODULUS_MPA: Partial<Record<Material, number>> = {
  steel: 207_000,
  rope: 90_000,
  nylon: 4_500,
  fluorocarbon: 3_500,
  gut: 5_500,
  composite: 6_000,
};

export const CORE_MATERIALS = ['steel', 'rope', 'nylon', 'fluorocarbon', 'gut', 'composite'] as const;
export type CoreMaterial = (typeof CORE_MATERIALS)[number];

export const modulusMpa = (core: CoreMaterial): number => MODULUS_MPA[core] ?? 0;
