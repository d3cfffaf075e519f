import { count, plural } from '../../../core/count';
import type { IntakeView } from '../../../server/intake/intake';

const DELIMITERS: Record<string, string> = {
  ';': 'Separated by semicolons',
  ',': 'Separated by commas',
  '\t': 'Separated by tabs',
  '|': 'Separated by vertical bars',
};

/** How a file was read: "Semicolons, Windows text." */
export function sayFound(view: Pick<IntakeView, 'found' | 'sheet'>): string {
  const { found } = view;
  if (found.kind === 'xlsx') return `Sheet “${view.sheet}” of the workbook; values only, no formulas.`;
  const odd =
    found.oddQuotes.length > 0
      ? ` Odd quotation marks in ${plural(found.oddQuotes.length, 'row')} ${found.oddQuotes.slice(0, 5).join(', ')}: check there.`
      : '';
  return `${DELIMITERS[found.delimiter] ?? 'One column'}, ${found.encoding} text.${odd}`;
}

const MADE: Record<string, readonly [string, string?]> = {
  instruments: ['instrument'],
  places: ['new place'],
  people: ['person', 'people'],
  changes: ['string change'],
  sets: ['set'],
  strings: ['single string'],
  lots: ['lot in stock', 'lots in stock'],
  loans: ['loan'],
  prices: ['price'],
  changed: ['entry changed', 'entries changed'],
  older: ['older change left out', 'older changes left out'],
};

/** What a list made: "212 instruments, 3 new places". */
export const sayMade = (made: Record<string, number>): string =>
  Object.entries(MADE)
    .flatMap(([key, [one, more]]) => (made[key] ? [count(made[key], one, more)] : []))
    .join(', ') || 'nothing';
