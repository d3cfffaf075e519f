import { strFromU8, unzipSync } from 'fflate';
import Papa from 'papaparse';
import { readSheet } from 'read-excel-file/node';
import { count } from '../../core/count';
import { refused, UserError } from '../errors';

/** A table out of a file, as text, and how it was read. */
export interface Sheet {
  name: string;
  rows: string[][];
  found: Found;
}

/** What was recognised of a file. */
export interface Found {
  kind: 'csv' | 'xlsx';
  /** How its letters are kept; empty for a spreadsheet. */
  encoding: string;
  /** What stands between its cells; empty for a spreadsheet. */
  delimiter: string;
  /** Rows whose quotation marks are odd: their cells may be wrong. */
  oddQuotes: number[];
}

/** The most that is taken in at once: enough for every programme, little enough to be read in seconds. */
export const MOST_FILE_BYTES = 12_000_000;
const MOST_ROWS = 50_000;
const MOST_COLUMNS = 80;
const MOST_LETTERS = 4000;
const MOST_SHEETS = 12;
/** A spreadsheet unpacks to no more than this. */
const MOST_UNPACKED_BYTES = 200_000_000;

const unreadable = (detail: string): UserError =>
  refused('unreadable', 'This file cannot be read', `${detail} Nothing was changed.`);

/**
 * The sheets of a file as text: CSV (RFC 4180, any delimiter and the usual encodings) or an .xlsx workbook, of which only
 * values are read: no macro and no formula runs.
 * @throws UserError `unreadable`, `too-many-rows` in words
 */
export async function readFile(name: string, bytes: Uint8Array): Promise<Sheet[]> {
  if (bytes.length === 0) throw unreadable('The file is empty.');
  const begins = (...marks: number[]) => marks.every((m, i) => bytes[i] === m);
  if (begins(0x50, 0x4b)) return readWorkbook(bytes);
  if (begins(0xd0, 0xcf, 0x11, 0xe0))
    throw unreadable(
      'This is an old .xls workbook, or one with a password. Save it as .xlsx without a password, or as CSV.',
    );
  if (begins(0x25, 0x50, 0x44, 0x46)) throw unreadable('This is a PDF. Export the list as .xlsx or CSV.');
  return [readCsv(name.replace(/\.[^.]*$/, ''), bytes)];
}

/** Text of bytes whose encoding nobody has said. Lines of a file that was put together from several are read each by itself. */
function decode(bytes: Uint8Array): { text: string; encoding: string } {
  if (bytes[0] === 0xff && bytes[1] === 0xfe)
    return { text: new TextDecoder('utf-16le').decode(bytes), encoding: 'UTF-16' };
  if (bytes[0] === 0xfe && bytes[1] === 0xff)
    return { text: new TextDecoder('utf-16be').decode(bytes), encoding: 'UTF-16' };
  if (bytes.subarray(0, 4000).includes(0))
    throw unreadable('This file is not a list. Export the list as .xlsx or CSV.');
  try {
    return { text: new TextDecoder('utf-8', { fatal: true }).decode(bytes), encoding: 'UTF-8' };
  } catch {
    const utf8 = new TextDecoder('utf-8', { fatal: true });
    const windows = new TextDecoder('windows-1252');
    let mixed = false;
    let text = '';
    for (let from = 0; from < bytes.length; ) {
      const end = bytes.indexOf(0x0a, from);
      const line = bytes.subarray(from, end < 0 ? bytes.length : end + 1);
      from += line.length;
      let read: string;
      try {
        read = utf8.decode(line);
        if (line.some((b) => b > 0x7f)) mixed = true;
      } catch {
        read = windows.decode(line);
      }
      text += read;
    }
    return { text, encoding: mixed ? 'mixed: UTF-8 and Windows' : 'Windows' };
  }
}

function readCsv(name: string, bytes: Uint8Array): Sheet {
  const { text, encoding } = decode(bytes);
  const rows: string[][] = [];
  const oddQuotes: number[] = [];
  let delimiter = ',';
  let wrong: UserError | null = null;
  Papa.parse<string[]>(text, {
    skipEmptyLines: 'greedy',
    delimitersToGuess: [',', ';', '\t', '|'],
    step(result, parser) {
      delimiter = result.meta.delimiter;
      for (const error of result.errors) {
        if (error.code === 'MissingQuotes') {
          wrong = unreadable(
            `In row ${rows.length + 1} a quotation mark opens and never closes. Close or delete it in the file.`,
          );
          parser.abort();
          return;
        }
        if (error.type === 'Quotes') oddQuotes.push(rows.length + 1);
      }
      rows.push(result.data);
      // Counted while it is read: neither rows nor columns without end are kept.
      if (rows.length > MOST_ROWS || result.data.length > 10 * MOST_COLUMNS) parser.abort();
    },
  });
  if (wrong) throw wrong;
  return checked({
    name: name || 'sheet',
    rows,
    found: { kind: 'csv', encoding, delimiter, oddQuotes: [...new Set(oddQuotes)] },
  });
}

/** No more rows, columns and letters than can be; rows are made equally long. */
function checked(sheet: Sheet): Sheet {
  const { rows } = sheet;
  if (rows.length > MOST_ROWS)
    throw refused(
      'too-many-rows',
      'Too many rows',
      `“${sheet.name}” has more than ${MOST_ROWS.toLocaleString('en')} rows. Split it into several files. Nothing was changed.`,
    );
  const width = rows.reduce((most, r) => Math.max(most, r.length), 0);
  if (width > MOST_COLUMNS)
    throw unreadable(
      `“${sheet.name}” has ${count(width, 'column')}; at most ${MOST_COLUMNS} can be read. Delete the ones you do not need.`,
    );
  const long = rows.findIndex((r) => r.some((c) => c.length > MOST_LETTERS));
  if (long >= 0)
    throw unreadable(
      `In row ${long + 1} of “${sheet.name}” a cell has more than ${MOST_LETTERS} characters. Shorten it.`,
    );
  const plain = (cell: string) =>
    cell.replace(/\r\n?/g, '\n').replace(/[\p{Cc}\p{Cf}]/gu, (sign) => (sign === '\n' || sign === '\t' ? sign : ''));
  return { ...sheet, rows: rows.map((r) => Array.from({ length: width }, (_, i) => plain(r[i] ?? '').trim())) };
}

/** Entries that the archive of a workbook may have. */
const MOST_ENTRIES = 2000;
/** Rows times columns up to the last cell, also of empty ones: what the reader makes room for. */
const MOST_AREA = 2 * MOST_ROWS * MOST_COLUMNS;
/** Cells that are there, empty ones included. */
const MOST_CELLS = 1_500_000;

/** The number of a column by its letters: A is 1, XFD is 16,384. */
const columnNumber = (letters: string): number =>
  [...letters].reduce((n, letter) => n * 26 + letter.charCodeAt(0) - 64, 0);

/**
 * Looks at where the cells of a sheet are before anything makes room for them.
 * @throws UserError `unreadable` for a cell at no place of a sheet, `too-large` for more than can be read
 */
function checkCells(xml: string): void {
  let cells = 0;
  let [lastRow, lastColumn] = [0, 0];
  for (const [, tag, attributes = ''] of xml.matchAll(/<(?:\w{1,20}:)?(c|row)\s([^<>]*)>/g)) {
    const at = /(?:^|\s)r="([^"]*)"/.exec(attributes)?.[1];
    if (tag === 'row') {
      if (at !== undefined) lastRow = Math.max(lastRow, placeOf(`A${at}`).row);
    } else {
      cells += 1;
      if (at !== undefined) {
        const { row, column } = placeOf(at);
        lastRow = Math.max(lastRow, row);
        lastColumn = Math.max(lastColumn, column);
      }
    }
    if (cells > MOST_CELLS || lastRow * lastColumn > MOST_AREA)
      throw refused(
        'too-large',
        'The sheet is too large',
        `A sheet has cells as far as column ${lastColumn}, row ${lastRow}. Delete the empty rows and columns behind your list, or save it as CSV. Nothing was changed.`,
      );
  }
}

function placeOf(at: string): { row: number; column: number } {
  const [, letters = '', figures = ''] = /^([A-Z]{1,3})(\d{1,7})$/.exec(at) ?? [];
  const place = { column: columnNumber(letters), row: Number(figures) };
  if (place.column < 1 || place.column > 16_384 || place.row < 1 || place.row > 1_048_576)
    throw unreadable(`The workbook is damaged: no sheet has a cell “${at.slice(0, 40)}”. Save it again, or as CSV.`);
  return place;
}

/**
 * The names of a workbook's sheets. Its cells are looked at here, unpacked no further than there is room for.
 * @throws UserError `unreadable`, `too-large`
 */
function sheetNames(bytes: Uint8Array): string[] {
  let unpacked = 0;
  let entries = 0;
  const tooLarge = (): UserError =>
    refused(
      'too-large',
      'The file is too large',
      'The file is too large once unpacked. Save only the sheet you need as CSV. Nothing was changed.',
    );
  const bad = unreadable(
    'This is not an .xlsx workbook, or it is damaged. Open it in a spreadsheet program and save it as .xlsx or CSV.',
  );
  try {
    // What it says of its sizes is checked by unpacking no more than that.
    const packed = unzipSync(bytes, {
      filter: (file) => {
        entries += 1;
        unpacked += file.originalSize;
        if (entries > MOST_ENTRIES || unpacked > MOST_UNPACKED_BYTES) throw tooLarge();
        return file.name === 'xl/workbook.xml' || /^xl\/worksheets\/[^/]+\.xml$/.test(file.name);
      },
    });
    const workbook = packed['xl/workbook.xml'];
    if (!workbook) throw bad;
    if (workbook.length > 1_000_000) throw tooLarge();
    for (const [name, sheet] of Object.entries(packed)) if (name !== 'xl/workbook.xml') checkCells(strFromU8(sheet));
    return strFromU8(workbook)
      .split('<')
      .filter((tag) => /^(?:\w{1,20}:)?sheet\s/.test(tag))
      .slice(0, MOST_SHEETS)
      .map((tag) => /\sname="([^"]*)"/.exec(tag)?.[1] ?? '');
  } catch (error) {
    throw error instanceof UserError ? error : bad;
  }
}

const sayCell = (value: unknown): string => {
  if (value === null || value === undefined) return '';
  if (value instanceof Date) return value.toISOString().slice(0, 10);
  if (typeof value === 'boolean') return value ? 'yes' : 'no';
  return String(value);
};

async function readWorkbook(bytes: Uint8Array): Promise<Sheet[]> {
  const names = sheetNames(bytes);
  const sheets: Sheet[] = [];
  for (let at = 1; at <= names.length; at++) {
    let data: unknown[][];
    try {
      data = await readSheet(Buffer.from(bytes), at, { trim: true });
    } catch {
      throw unreadable('The workbook is damaged. Open it in a spreadsheet program and save it again, or as CSV.');
    }
    const rows = data.map((r) => r.map(sayCell)).filter((r) => r.some((c) => c.trim() !== ''));
    if (rows.length === 0) continue;
    const name = (names[at - 1] ?? '')
      .replaceAll('&amp;', '&')
      .replaceAll('&lt;', '<')
      .replaceAll('&gt;', '>')
      .replaceAll('&quot;', '"')
      .replaceAll('&apos;', '’');
    sheets.push(
      checked({
        name: name || `sheet ${at}`,
        rows,
        found: { kind: 'xlsx', encoding: '', delimiter: '', oddQuotes: [] },
      }),
    );
  }
  if (sheets.length === 0) throw unreadable('All its sheets are empty.');
  return sheets;
}
