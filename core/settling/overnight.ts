import { CORE } from '../parts/cores';
import type { CoreMaterial } from '../strings/materials';

/** Cores that go on giving for days: all that are not metal. */
export const isSoft = (core: CoreMaterial): boolean => !CORE[core].metal;

/** What is said of them wherever somebody might take it for a fault. Common practice, no source. */
export const OVERNIGHT = 'A whole tone flat the next morning is normal on nylon, gut and composite strings.';
