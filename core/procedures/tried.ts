import type { Build } from '../instruments/build';
import { composeProcedure } from './compose';
import { applyHouse, type House } from './houseMethod';
import { compareLoads, compareWinds, type OrderRow, type WindRow } from './schools';
import type { Gap, JobContext, Procedure, StringToFit } from './types';

export { problemsOf } from './houseMethod';

/** What a house method makes of one build. */
export interface Tried {
  /** In the house's own words; null where steps are missing. */
  procedure: Procedure | null;
  gaps: Gap[];
  loads: OrderRow[];
  winds: WindRow[];
}

/** A full set changed by a house method on a build: its steps, and each other choice beside it. */
export function tryMethod(
  build: Build,
  house: House,
  strings: readonly StringToFit[],
  job: Partial<Pick<JobContext, 'last' | 'a4Hz'>> = {},
): Tried {
  const composed = composeProcedure(build, house.method, strings, job);
  return {
    procedure: 'procedure' in composed ? applyHouse(build, composed.procedure, house) : null,
    gaps: 'gaps' in composed ? composed.gaps : [],
    loads: compareLoads(build, house.method, strings),
    winds: compareWinds(build, house.method, strings),
  };
}
