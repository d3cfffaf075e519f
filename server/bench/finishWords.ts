import type { Knex } from 'knex';
import type { CountedPart, FinishEntry } from '../../contract/bench';
import { saySmallParts } from '../../core/parts/smallParts';
import { must } from '../db/must';
import type { SmallUse } from '../stock/smallParts';

import type { Prepared } from './preparing';

/** What was put in beside strings, as a sentence; empty where nothing was. */
export function smallWords(small: readonly SmallUse[]): string {
  const said = saySmallParts(small);
  return said ? `${said.charAt(0).toUpperCase()}${said.slice(1)}.` : '';
}

/** What is not accounted for, in words; empty when everything is. */
export function missingWords(parts: readonly CountedPart[]): string {
  const missing = parts.filter((p) => p.counted !== p.expected);
  if (missing.length === 0) return '';
  return `Not accounted for: ${missing.map((p) => `${p.counted} of ${p.expected}, ${p.part}`).join('; ')}.`;
}

/** What was done, for the history. */
export async function summaryOf(trx: Knex, p: Prepared, entries: readonly FinishEntry[]): Promise<string> {
  const fitted = entries.filter((e) => e.action === 'fit');
  const asHouse = p.instrument.positions.every((pos) =>
    fitted.some((e) => e.number === pos.number && e.productId === pos.houseProductId),
  );
  const half = p.plan.drawn.some((d) => d.amount === 'half') ? ', half strings' : '';
  if (asHouse && p.instrument.houseSetId) {
    const set = must(await trx('product').where({ id: p.instrument.houseSetId }).first());
    return `${set.name}${half}`;
  }
  if (fitted.length === 0)
    return `string ${entries
      .filter((e) => e.action === 'left-off')
      .map((e) => e.number)
      .join(', ')} taken off`;
  if (fitted.length === p.instrument.positions.length) return `full set, mixed${half}`;
  const notes = new Map(p.instrument.positions.map((pos) => [pos.number, pos.note]));
  return `${fitted.map((e) => notes.get(e.number)).join(', ')} only${half}`;
}
