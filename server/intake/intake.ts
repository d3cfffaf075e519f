import { createHash } from 'node:crypto';
import type { Knex } from 'knex';
import { z } from 'zod';
import type { Decide, DraftQuery } from '../../contract/intake';
import type { LocalDate } from '../../core/dates';
import { FIELDS, guessSubject, headingRow, mapColumns, type Subject } from '../../core/intake/columns';
import { type DayStyle, dayStyleOf } from '../../core/intake/days';
import type { Decisions, Draft, DraftRow, Question } from '../../core/intake/draft';
import { draftOf } from '../../core/intake/read';
import { fold } from '../../core/text';
import { runInProcess } from '../apart';
import { localDate } from '../clock';
import { type Acting, change, insertId } from '../db/change';
import * as columns from '../db/columns';
import { conflict, notFound, refused } from '../errors';
import { programmeRow } from '../programme/programme';
import { type Found, MOST_FILE_BYTES, readFile, type Sheet } from './file';
import type { IntakeTask } from './intake.worker';
import { loadKnown } from './known';

const rowsColumn = columns.columnOf<string[][]>('the rows of a sheet', z.array(z.array(z.string())));
const decisionsColumn = columns.columnOf<Decisions>(
  'what was decided of a sheet',
  z.looseObject({
    fields: z.array(z.string().nullable()),
    words: z.looseObject({}),
    cells: z.looseObject({}),
    out: z.array(z.int()),
  }),
);
const foundColumn = columns.columnOf<Found>('how a file was read', z.looseObject({ kind: z.string() }));
export const madeColumn = columns.columnOf<Record<string, number>>(
  'what a sheet made',
  z.record(z.string(), z.number()),
);

/** First looks at strings of unknown age are spread over so many weeks, where nothing else is said. */
const SPREAD_WEEKS = 6;
/** Rows in one answer. */
export const ROWS_AT_ONCE = 100;
const MOST_QUESTIONS = 80;
/** So many days of a column tell in which order they are written. */
const DAYS_LOOKED_AT = 2000;

const headsKey = (heads: readonly string[]): string =>
  createHash('sha256').update(heads.map(fold).join('\u0001')).digest('base64url').slice(0, 32);

/** What a sheet's columns are most likely: as they were the last time one with these headings came, or by their look. */
async function decisionsFor(
  db: Knex,
  heads: readonly string[],
  rows: readonly string[][],
  as?: Subject,
): Promise<{ subject: Subject; decisions: Decisions }> {
  const before = await db('intake_profile')
    .where({ heads_key: headsKey(heads) })
    .first();
  const profile = before && (as === undefined || before.subject === as) ? before : undefined;
  const subject = as ?? profile?.subject ?? guessSubject(heads, rows);
  const fields = profile ? nullable.read(profile.fields) : mapColumns(subject, heads, rows).fields;
  const days = fields.flatMap((key, column) =>
    key === 'on' || key === 'from' || key === 'to' ? rows.map((r) => r[column] ?? '') : [],
  );
  return {
    subject,
    decisions: {
      fields,
      dayStyle: profile?.day_style ?? dayStyleOf(days).style,
      words: {},
      cells: {},
      out: [],
      usualSets: true,
      spreadWeeks: SPREAD_WEEKS,
    },
  };
}
const nullable = columns.columnOf<(string | null)[]>('the columns of a sheet', z.array(z.string().nullable()));

/** A small list of plain text is read at once: that is quicker than to begin a process for it. */
const AT_ONCE_BYTES = 100_000;

const readBeside = (p: { name: string; bytes: Uint8Array }): Promise<Sheet[]> =>
  p.bytes.length < AT_ONCE_BYTES && p.bytes[0] !== 0x50
    ? readFile(p.name, p.bytes)
    : runInProcess<Sheet[]>('intake', { task: 'read', name: p.name, bytes: p.bytes } satisfies IntakeTask, {
        ms: 30_000,
        megabytes: 1000,
        late: {
          title: 'The file took too long to read',
          detail: 'The file took too long to read. Split it into smaller ones. Nothing was changed.',
        },
      });

/**
 * Takes a file in: reads its sheets in a thread of its own and keeps each as a draft. Nothing else is changed by it.
 * @returns where to go on: the sheet with most rows
 */
export async function addFile(
  db: Knex,
  acting: Acting,
  p: { name: string; bytes: Uint8Array },
): Promise<{ location: string; intakes: number[] }> {
  if (p.bytes.length > MOST_FILE_BYTES)
    throw refused(
      'too-large',
      'The file is too large',
      'A list can be up to 12 MB. Split it, or save only the sheet you need. Nothing was changed.',
    );
  const sheets = await readBeside(p);
  const request = { name: p.name, bytes: createHash('sha256').update(p.bytes).digest('base64url') };
  return change(db, acting, 'intake.add', request, async (trx) => {
    const kept: { id: number; rows: number; subject: Subject }[] = [];
    for (const sheet of sheets) {
      const at = headingRow(sheet.rows);
      const heads = sheet.rows[at] ?? [];
      const rows = sheet.rows.slice(at + 1);
      if (rows.length === 0) continue;
      const { subject, decisions } = await decisionsFor(trx, heads, rows);
      const id = await insertId(trx, 'intake', {
        at: acting.now,
        person_id: acting.personId,
        file_name: p.name,
        sheet: sheet.name,
        subject,
        found: foundColumn.write(sheet.found),
        heads: columns.texts.write(heads),
        rows: rowsColumn.write(rows),
        decisions: decisionsColumn.write(decisions),
      });
      kept.push({ id, rows: rows.length, subject });
    }
    const first = kept.sort((a, b) => b.rows - a.rows)[0];
    if (!first)
      throw refused('no-rows', 'Nothing below the headings', 'The file has headings but no rows. Nothing was changed.');
    return {
      result: { location: `/programme/import/${first.id}`, intakes: kept.map((k) => k.id) },
      entity: 'intake',
      entityId: first.id,
    };
  });
}

async function openIntake(trx: Knex, p: { id: number; expectedVersion: number }) {
  const row = await trx('intake').where({ id: p.id }).first();
  if (!row) throw notFound('This sheet');
  if (row.status !== 'open')
    throw refused(
      'not-open',
      'This sheet is closed',
      'This sheet has been imported or discarded. Choose the file again.',
    );
  if (row.version !== p.expectedVersion)
    throw conflict('Someone else has changed something in this sheet. It is shown as it is now.', {
      currentVersion: row.version,
    });
  return row;
}

/** Keeps what somebody decided of a sheet. @throws UserError not-found, `not-open`, conflict */
export async function decide(db: Knex, acting: Acting, p: Decide & { id: number }): Promise<{ version: number }> {
  return change(db, acting, 'intake.decide', p, async (trx) => {
    const row = await openIntake(trx, p);
    const heads = columns.texts.read(row.heads);
    let subject = row.subject;
    let decisions = decisionsColumn.read(row.decisions);
    if (p.subject && p.subject !== subject) {
      subject = p.subject;
      decisions = {
        ...(await decisionsFor(trx, heads, rowsColumn.read(row.rows), subject)).decisions,
        cells: decisions.cells,
        words: decisions.words,
      };
    }
    if (p.field) {
      const { column, key } = p.field;
      if (column >= heads.length || (key !== null && !FIELDS[subject].some((f) => f.key === key)))
        throw refused('no-field', 'No such column', 'There is no such column. Choose one from the list.');
      // Each field once: the other column that had it is left out.
      decisions.fields = decisions.fields.map((k, i) => (i === column ? key : k === key ? null : k));
    }
    if (p.dayStyle) decisions.dayStyle = p.dayStyle;
    if (p.word) decisions.words[p.word.key] = p.word.value;
    for (const c of p.cells ?? []) decisions.cells[`${c.row}/${c.column}`] = c.value;
    if (p.out) {
      const rows = new Set(p.out.rows);
      decisions.out = [...decisions.out.filter((r) => !rows.has(r)), ...(p.out.out ? rows : [])];
    }
    if (p.usualSets !== undefined) decisions.usualSets = p.usualSets;
    if (p.spreadWeeks !== undefined) decisions.spreadWeeks = p.spreadWeeks;
    const version = row.version + 1;
    await trx('intake')
      .where({ id: row.id })
      .update({ subject, decisions: decisionsColumn.write(decisions), version });
    return { result: { version }, entity: 'intake', entityId: row.id };
  });
}

/** Puts a sheet away that is not to be taken over. */
export async function dropIntake(
  db: Knex,
  acting: Acting,
  p: { id: number; expectedVersion: number },
): Promise<{ location: string }> {
  return change(db, acting, 'intake.drop', p, async (trx) => {
    const row = await openIntake(trx, p);
    await trx('intake')
      .where({ id: row.id })
      .update({ status: 'dropped', version: row.version + 1 });
    return { result: { location: '/programme/import' }, entity: 'intake', entityId: row.id };
  });
}

/** A sheet with its decisions and what it would do, all of it. For the worker that takes it over, and to be shown. */
export async function wholeDraft(db: Knex, id: number, now: number) {
  const row = await db('intake').where({ id }).first();
  if (!row) throw notFound('This sheet');
  const programme = await programmeRow(db);
  const person = await db('person').where({ id: row.person_id }).first();
  const place = await db('place').whereNull('retired_on').orderBy('id').first();
  const here = await db('place')
    .where({ id: person?.place_id ?? -1 })
    .whereNull('retired_on')
    .first();
  const known = await loadKnown(db, {
    today: localDate(now, programme.time_zone),
    homePlaceId: here?.id ?? place?.id ?? 1,
  });
  const decisions = decisionsColumn.read(row.decisions);
  const rows = rowsColumn.read(row.rows);
  return {
    row,
    known,
    decisions,
    rows,
    heads: columns.texts.read(row.heads),
    draft: draftOf(row.subject, rows, decisions, known),
  };
}

export interface IntakeView {
  id: number;
  version: number;
  fileName: string;
  sheet: string;
  subject: Subject;
  status: 'open' | 'applied' | 'undone' | 'dropped';
  found: Found;
  heads: string[];
  fields: (string | null)[];
  choices: { key: string; name: string; needed: boolean }[];
  /** Needed fields that no column is. */
  lacking: string[];
  dayStyle: DayStyle;
  dayStyleSure: boolean;
  counts: Record<DraftRow['does'], number>;
  remarks: number;
  /** New instruments with no day of their last strings, and with no usual set. */
  unknownAge: number;
  unstrung: number;
  usualSets: boolean;
  spreadWeeks: number;
  questions: Question[];
  moreQuestions: number;
  rows: Omit<DraftRow, 'op'>[];
  from: number;
  shown: number;
  made: Record<string, number>;
  /** Other sheets of the same file. */
  others: { id: number; sheet: string; subject: Subject; status: string; rows: number }[];
}

const SHOWS: Record<DraftQuery['show'], (r: DraftRow) => boolean> = {
  all: () => true,
  problem: (r) => r.does === 'problem',
  remark: (r) => r.remarks.length > 0,
  change: (r) => r.does === 'change',
  out: (r) => r.does === 'out' || r.does === 'same',
};

/** A sheet as its page shows it: what it would do, in numbers, questions and some of its rows. */
export async function viewIntake(db: Knex, p: DraftQuery & { id: number; now: number }): Promise<IntakeView | null> {
  if (!(await db('intake').where({ id: p.id }).first('id'))) return null;
  const { row, decisions, rows, heads, draft } = await wholeDraft(db, p.id, p.now);
  const counts = { add: 0, change: 0, same: 0, out: 0, problem: 0 };
  for (const r of draft.rows) counts[r.does] += 1;
  const shown = draft.rows.filter(SHOWS[p.show]);
  const fields = FIELDS[row.subject];
  const days = decisions.fields.flatMap((key, column) =>
    key === 'on' || key === 'from' || key === 'to' ? rows.map((r) => r[column] ?? '') : [],
  );
  const added = draft.rows.flatMap((r) => (r.op?.does === 'instrument' ? [r.op] : []));
  return {
    id: row.id,
    version: row.version,
    fileName: row.file_name,
    sheet: row.sheet,
    subject: row.subject,
    status: row.status,
    found: foundColumn.read(row.found),
    heads,
    fields: decisions.fields,
    choices: fields.map((f) => ({ key: f.key, name: f.name, needed: Boolean(f.needed) })),
    lacking: fields.filter((f) => f.needed && !decisions.fields.includes(f.key)).map((f) => f.name),
    dayStyle: decisions.dayStyle,
    dayStyleSure: days.length === 0 || dayStyleOf(days.slice(0, DAYS_LOOKED_AT)).sure,
    counts,
    remarks: draft.rows.filter((r) => r.remarks.length > 0).length,
    unknownAge: added.filter((a) => a.since === null).length,
    unstrung: added.filter((a) => a.set === null).length,
    usualSets: decisions.usualSets,
    spreadWeeks: decisions.spreadWeeks,
    questions: draft.questions.slice(0, MOST_QUESTIONS),
    moreQuestions: Math.max(0, draft.questions.length - MOST_QUESTIONS),
    rows: shown.slice(p.from, p.from + ROWS_AT_ONCE).map(({ op: _, ...r }) => r),
    from: p.from,
    shown: shown.length,
    made: madeColumn.read(row.made),
    others: (
      (await db('intake')
        .where({ file_name: row.file_name, at: row.at })
        .whereNot({ id: row.id })
        .select('id', 'sheet', 'subject', 'status', db.raw('json_array_length(rows) as n'))) as (Pick<
        IntakeLine,
        'id' | 'sheet' | 'subject' | 'status'
      > & { n: number })[]
    ).map(({ n, ...o }) => ({ ...o, rows: Number(n) })),
  };
}

/** Remembers what the words of a sheet meant and what its columns were, for the next one like it. */
export async function remember(
  trx: Knex,
  p: { heads: readonly string[]; subject: Subject; decisions: Decisions; draft: Draft; now: number },
): Promise<void> {
  await trx('intake_profile')
    .insert({
      heads_key: headsKey(p.heads),
      subject: p.subject,
      fields: nullable.write(p.decisions.fields),
      day_style: p.decisions.dayStyle,
    })
    .onConflict('heads_key')
    .merge();
  const words = p.draft.questions.flatMap((q) =>
    // What a place is new as is its name from now on: it is found by that.
    q.answer &&
    !(q.about === 'place' && q.answer.value.startsWith('+')) &&
    (q.confidence !== 'unsure' || p.decisions.words[q.key])
      ? [{ word: q.key.slice(0, 250), means: q.answer.value, at: p.now }]
      : [],
  );
  for (const w of words) await trx('intake_word').insert(w).onConflict('word').merge();
}

export interface IntakeLine {
  id: number;
  fileName: string;
  sheet: string;
  subject: Subject;
  status: 'open' | 'applied' | 'undone' | 'dropped';
  on: LocalDate;
  by: string;
  rows: number;
  made: Record<string, number>;
}

/** Sheets that came lately, those that wait first. */
export async function intakes(db: Knex, most = 40): Promise<IntakeLine[]> {
  const { time_zone: timeZone } = await programmeRow(db);
  const rows = await db('intake as i')
    .join('person as p', 'p.id', 'i.person_id')
    .whereNot('i.status', 'dropped')
    .orderByRaw("i.status <> 'open', i.id desc")
    .limit(most)
    .select(
      'i.id',
      'i.file_name',
      'i.sheet',
      'i.subject',
      'i.status',
      'i.at',
      'i.made',
      'p.name',
      db.raw('json_array_length(i.rows) as n'),
    );
  return rows.map((r) => ({
    id: r.id,
    fileName: r.file_name,
    sheet: r.sheet,
    subject: r.subject,
    status: r.status,
    on: localDate(r.at, timeZone),
    by: r.name,
    rows: Number(r.n),
    made: madeColumn.read(r.made),
  }));
}
