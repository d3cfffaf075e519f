import type { FinishEntry } from '../../../contract/bench';
import type { SmallPart } from '../../../core/parts/smallParts';
import type { PartFate } from '../../../core/procedures/types';

/** What is entered when a job is finished. */
export interface Fields {
  entries: FinishEntry[];
  discard: string[];
  notes: string;
  minutes: number | null;
  /** Parts as counted; null where nobody counted. */
  counted: (number | null)[];
  /** Pins and spacers put in anew or saved. */
  small: { part: SmallPart; used: number; saved: number }[];
}

/** Parts that are counted one by one: those with a number. */
export const countable = (parts: readonly PartFate[] = []): PartFate[] => parts.filter((p) => p.count > 0);

/** An empty field counts as none. */
export const WHOLE = { setValueAs: (v: unknown) => Math.max(0, Math.round(Number(v) || 0)) };

/** An empty field is nothing known. */
export const KNOWN = {
  setValueAs: (v: unknown) => (v === '' || v === null || Number.isNaN(Number(v)) ? null : Number(v)),
};
