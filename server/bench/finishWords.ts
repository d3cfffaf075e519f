import type { Knex } from 'knex';
import type { FinishEntry } from '../../contract/bench';
import { type Done, sayBeside } from '../../core/work/done';
import * as columns from '../db/columns';
import { must } from '../db/must';
import type { Prepared } from './preparing';

/** What was done, for the history. */
export async function doneOf(trx: Knex, p: Prepared, entries: readonly FinishEntry[]): Promise<Done> {
  const fitted = entries.filter((e) => e.action === 'fit');
  const asHouse = p.instrument.positions.every((pos) =>
    fitted.some((e) => e.number === pos.number && e.productId === pos.houseProductId),
  );
  const half = p.plan.drawn.some((d) => d.amount === 'half') ? { half: true } : {};
  if (entries.every((e) => e.action === 'kept')) return { did: 'refit' };
  if (asHouse && p.instrument.houseSetId) {
    const set = must(await trx('product').where({ id: p.instrument.houseSetId }).first());
    return { did: 'set', set: set.name, ...half };
  }
  if (fitted.length === 0)
    return { did: 'off', numbers: entries.filter((e) => e.action === 'left-off').map((e) => e.number) };
  if (fitted.length === p.instrument.positions.length) return { did: 'mixed', ...half };
  const notes = new Map(p.instrument.positions.map((pos) => [pos.number, pos.note]));
  return { did: 'some', strings: fitted.map((e) => must(notes.get(e.number))), ...half };
}

/** What is said beside what was done, a sentence each, of a record's row. */
export const besideOf = (row: { done: string; parts: string | null }): string[] =>
  sayBeside(columns.done.read(row.done), row.parts === null ? null : columns.countedParts.read(row.parts));
