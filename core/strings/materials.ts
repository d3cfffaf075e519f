import { CORE } from '../parts/cores';

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
  'brass-bronze': '80/20 bronze',
  copper: 'silver-plated copper',
  silver: 'silver',
  aluminium: 'aluminium',
  tungsten: 'tungsten',
  nylon: 'nylon',
  fluorocarbon: 'fluorocarbon',
  gut: 'gut',
  composite: 'composite',
  rope: 'steel rope',
};

export const modulusMpa = (core: CoreMaterial): number => CORE[core].modulusMpa;

/** Density in kg/m³ of a core as built, air between its strands counted in. */
export const coreDensityKgM3 = (core: CoreMaterial): number => DENSITY_KG_M3[core] * CORE[core].fill;

/**
 * Tensile strength in MPa of a solid core: music wire by Sut = 2211 · d^−0.145 (d in mm; ASTM A228 as tabulated in
 * machine-design textbooks), polymers and gut by a mid-range value. Null where a core is not a solid and a single
 * figure would mislead.
 */
export function strengthMpa(core: CoreMaterial, diameterMm: number): number | null {
  return core === 'steel' ? 2211 * diameterMm ** -0.145 : CORE[core].strengthMpa;
}
