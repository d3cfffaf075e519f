import writeXlsxFile from 'write-excel-file/node';
import type { Table } from './tables';

/** A text cell is no formula there; an apostrophe that is its own stays one when it is read again. */
const quoted = (text: string): string => (/^'['=+\-@]/.test(text) ? `'${text}` : text);

/** As an .xlsx workbook of one sheet. Text stays text: nothing in it is a formula. */
export async function toXlsx(table: Table, sheet: string): Promise<Buffer> {
  const bold = table.heads.map((value) => ({ value, type: String, fontWeight: 'bold' as const }));
  const rows = table.rows.map((r) =>
    r.map((value) =>
      typeof value === 'number'
        ? { value, type: Number }
        : value === ''
          ? null
          : { value: quoted(value), type: String },
    ),
  );
  return writeXlsxFile([bold, ...rows], { sheet: sheet.slice(0, 31), stickyRowsCount: 1 }).toBuffer();
}
