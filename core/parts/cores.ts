import type { CoreMaterial } from '../strings/materials';

/** Everything that hangs on what carries the pull of a string. */
export interface CorePart {
  /** Steel, or a bundle of steel. */
  metal: boolean;
  /**
   * Young's modulus in MPa. Steel is a handbook value; drawn polymers and gut are mid-range values, so lengths taken up
   * elastically are estimates there.
   */
  modulusMpa: number;
  /**
   * Share of the core's circle that is material: a rope of round wires and a multi-strand composite carry less than a
   * solid of the same outer diameter (seven equal wires fill 7/9).
   */
  fill: number;
  /** Tensile strength in MPa of drawn monofilaments: mid-range handbook values, from memory. Null: not by one figure. */
  strengthMpa: number | null;
  /**
   * Hours after which a new string is stable enough to play on without retuning all the time: the quick and the careful
   * figure. Common practice, no source.
   */
  settlesHours: { quick: number; careful: number };
}

/** One entry for each core; its density stands with the other materials, its words in `MATERIAL_NAMES`. */
export const CORE: Record<CoreMaterial, CorePart> = {
  steel: { metal: true, modulusMpa: 207_000, fill: 1, strengthMpa: null, settlesHours: { quick: 12, careful: 24 } },
  rope: { metal: true, modulusMpa: 90_000, fill: 7 / 9, strengthMpa: null, settlesHours: { quick: 12, careful: 24 } },
  nylon: { metal: false, modulusMpa: 4_500, fill: 1, strengthMpa: 750, settlesHours: { quick: 24, careful: 48 } },
  fluorocarbon: {
    metal: false,
    modulusMpa: 3_500,
    fill: 1,
    strengthMpa: 720,
    settlesHours: { quick: 24, careful: 48 },
  },
  composite: {
    metal: false,
    modulusMpa: 6_000,
    fill: 0.8,
    strengthMpa: null,
    settlesHours: { quick: 24, careful: 72 },
  },
  gut: { metal: false, modulusMpa: 5_500, fill: 1, strengthMpa: 360, settlesHours: { quick: 48, careful: 72 } },
};
