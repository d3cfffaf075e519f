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
      if (rows.length > MOST_ROWS + 10) parser.abort();
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

/** Only what a workbook's values stand in is unpacked, and never more than there is room for. */
function unpackable(bytes: Uint8Array): string[] {
  let unpacked = 0;
  let sheets: string[] = [];
  const bad = unreadable(
    'This is not an .xlsx workbook, or it is damaged. Open it in a spreadsheet program and save it as .xlsx or CSV.',
  );
  let names: string[] = [];
  try {
    // What it says of its sizes is checked by unpacking no more than that.
    const packed = unzipSync(bytes, {
      filter: (file) => {
        names.push(file.name);
        unpacked += file.originalSize;
        if (names.length > 2000 || unpacked > MOST_UNPACKED_BYTES)
          throw refused(
            'too-large',
            'The file is too large',
            'The file is too large once unpacked. Save only the sheet you need as CSV. Nothing was changed.',
          );
        return file.name === 'xl/workbook.xml';
      },
    });
    const workbook = packed['xl/workbook.xml'];
    if (!workbook) throw bad;
    sheets = [...strFromU8(workbook).matchAll(/<(?:\w+:)?sheet\s[^>]*?name="([^"]*)"/g)].map((m) => m[1] as string);
  } catch (error) {
    throw error instanceof UserError ? error : bad;
  }
  names = [];
  return sheets.slice(0, MOST_SHEETS);
}

const sayCell = (value: unknown): string => {
  if (value === null || value === undefined) return '';
  if (value instanceof Date) return value.toISOString().slice(0, 10);
  if (typeof value === 'boolean') return value ? 'yes' : 'no';
  return String(value);
};

async function readWorkbook(bytes: Uint8Array): Promise<Sheet[]> {
  const names = unpackable(bytes);
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
