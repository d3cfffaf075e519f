import { tagKey } from '../instruments/tag';
import { fold, isNothing } from '../text';
import type { Subject } from './columns';
import { type Decisions, type Draft, type DraftRow, type Known, type Question, RowReader } from './draft';
import { readInstrument } from './instruments';
import { readChange, readLoan, readPerson, readPlace, readProduct, readShelf } from './others';

const MOST_PLACE_NAMES = 60;

/** The field by which a row is told from the others, and how it is compared. */
const KEYS: Partial<Record<Subject, { field: string; key: (text: string) => string }>> = {
  instruments: { field: 'tag', key: tagKey },
  people: { field: 'name', key: fold },
  places: { field: 'name', key: fold },
  strings: { field: 'sku', key: fold },
};

/**
 * What taking a sheet over would do, row by row, and what has to be asked; it changes nothing, and the same sheet read
 * again after it was taken over says that all of it is the same.
 *
 * @param rows the rows below the heading, by cell
 */
export function draftOf(
  subject: Subject,
  rows: readonly (readonly string[])[],
  decisions: Decisions,
  known: Known,
): Draft {
  const asked = new Map<string, Question>();
  const out = new Set(decisions.out);
  const before = new Map<string, number>();
  const own = KEYS[subject];
  const fixed = new Map<number, Map<number, string>>();
  for (const [at, value] of Object.entries(decisions.cells)) {
    const [row, column] = at.split('/').map(Number) as [number, number];
    fixed.set(row, (fixed.get(row) ?? new Map()).set(column, value));
  }
  const placeColumn = decisions.fields.indexOf('place');
  const placeNames = [...new Set(placeColumn < 0 ? [] : rows.map((r) => (r[placeColumn] ?? '').trim()))]
    .filter((name) => !isNothing(name) && name.length <= 60)
    .filter((name) => !known.places.some((p) => fold(p.name) === fold(name)))
    .sort((a, b) => b.length - a.length)
    // So many names are no places; they are told apart by themselves.
    .slice(0, MOST_PLACE_NAMES);
  const seen = new Map<string, number>();
  const drafted = rows.map((cells, index): DraftRow => {
    const row = index + 1;
    const put = fixed.get(row);
    const now = put ? cells.map((c, column) => put.get(column) ?? c) : cells;
    const base = { row, cells: now, says: '', remarks: [], op: null };
    if (out.has(row)) return { ...base, does: 'out' };
    if (now.every((c) => c.trim() === '')) return { ...base, does: 'same' };
    const whole = now.map((c) => c.trim()).join('\u0001');
    const twin = seen.get(whole);
    if (twin !== undefined)
      return { ...base, does: 'out', remarks: [{ column: null, bad: false, says: `same as row ${twin}`, fixes: [] }] };
    seen.set(whole, row);
    const reader = new RowReader(known, decisions, now, asked, placeNames);
    const read = READERS[subject](reader, before);
    if (own) {
      const key = own.key(reader.text(own.field));
      if (key && !before.has(key)) before.set(key, row);
    }
    const does = reader.isBad
      ? 'problem'
      : read.same
        ? 'same'
        : read.op && /change$|^price$/.test(read.op.does)
          ? 'change'
          : 'add';
    return { ...base, does, says: read.says, remarks: reader.remarks, op: reader.isBad ? null : read.op };
  });
  const weight = { unsure: 0, likely: 1, sure: 2 } as const;
  const questions = [...asked.values()].sort((a, b) => weight[a.confidence] - weight[b.confidence] || b.rows - a.rows);
  return { rows: drafted, questions };
}

const READERS: Record<
  Subject,
  (r: RowReader, before: ReadonlyMap<string, number>) => ReturnType<typeof readInstrument>
> = {
  instruments: readInstrument,
  people: readPerson,
  places: readPlace,
  changes: readChange,
  strings: readProduct,
  shelf: readShelf,
  loans: readLoan,
};
