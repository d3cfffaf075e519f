import type { JobKind } from '../procedures/types';

/** What became of a position of a job that went as it was meant to. */
export interface PlainEntry {
  number: number;
  action: 'fit' | 'kept';
  productId: number | null;
  broken: number;
  found: boolean;
}

/**
 * What a job leaves behind when it goes as it was meant to: on its positions the house string, none lost on the way; on
 * all others, and where strings only come off and go on again, what was there.
 */
export function plainEntries(
  positions: readonly { number: number; houseProductId: number | null }[],
  job: { kind: JobKind; numbers: readonly number[] },
): PlainEntry[] {
  return positions.map((p) => ({
    number: p.number,
    action: p.houseProductId !== null && job.kind !== 'refit' && job.numbers.includes(p.number) ? 'fit' : 'kept',
    productId: p.houseProductId,
    broken: 0,
    found: false,
  }));
}
