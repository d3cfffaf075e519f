import { viewIntake } from '../intake/intake';
import { previewInterval } from '../methods/intervals';
import { planPage } from '../plan/page';
import { learnedOf } from '../plan/signOffs';
import { proposalInput, stockAhead } from '../stock/ahead';
import { toCount } from '../stock/counts';
import { productPage } from '../stock/productPage';

/**
 * What takes long to read in a large programme, by name. Each reads only, takes what can be sent to a thread beside the
 * database, and returns what can be sent back.
 */
export const READS = {
  previewInterval,
  viewIntake,
  planPage,
  learnedOf,
  stockAhead,
  proposalInput,
  toCount,
  productPage,
} as const;

export type ReadName = keyof typeof READS;
type Rest<F> = F extends (db: never, ...rest: infer R) => unknown ? R : never;
export type ReadArguments<N extends ReadName> = Rest<(typeof READS)[N]>;
export type ReadResult<N extends ReadName> = Awaited<ReturnType<(typeof READS)[N]>>;
