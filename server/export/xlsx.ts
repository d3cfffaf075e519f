import writeXlsxFile from 'write-excel-file/node';
import type { Table } from './tables';

/** A text cell is no formula there; an apostrophe that is its own stays one when it is read again. */
const quoted = (text: string): string => (/^'['=+\-@]/.test(text) ? `'${text}` : text);

// XML 1.0 (fifth edition), 2.2 Characters: what is none of these cannot stand in it, and would make the whole file unreadable.
const NO_XML = /[^\t\n\r\u{20}-\u{D7FF}\u{E000}-\u{FFFD}\u{10000}-\u{10FFFF}]/gu;

/**
 * A text without what no workbook can hold: control signs, and halves of signs. The library keeps texts in a plain object,
 * where words such as "valueOf" stand already: with a blank, which is trimmed when it is read, they are its own.
 */
function writable(text: string): string {
  const kept = text.replace(NO_XML, '');
  return kept in Object.prototype ? `${kept} ` : kept;
}

/** As an .xlsx workbook of one sheet. Text stays text: nothing in it is a formula. */
export async function toXlsx(table: Table, sheet: string): Promise<Buffer> {
  const bold = table.heads.map((value) => ({ value, type: String, fontWeight: 'bold' as const }));
  const rows = table.rows.map((r) =>
    r.map((value) =>
      typeof value === 'number'
        ? { value, type: Number }
        : value === ''
          ? null
          : { value: quoted(writable(value)), type: String },
    ),
  );
  return writeXlsxFile([bold, ...rows], { sheet: sheet.slice(0, 31), stickyRowsCount: 1 }).toBuffer();
}
