import { createReadStream, existsSync } from 'node:fs';
import { join } from 'node:path';
import { createInterface } from 'node:readline';
import type { Readable } from 'node:stream';
import Database from 'better-sqlite3';
import { z } from 'zod';
import { plural } from '../../core/count';
import { Anchor, anchorOf } from '../audit/anchor';
import { madeUpTo, openReader } from '../db/connection';
import { MIGRATIONS } from '../db/migrations/index';
import { CannotOpen, DATABASE_FILE, makeWhole, prepareFolder } from '../db/opening';
import { keepFile, readPicture } from '../photos/files';
import { WANTED } from '../photos/wanted';

/** What a file with a whole programme calls itself. */
export const FORMAT = 'arvick-programme';
/** Kept for retries and to be computed anew; they belong to one machine. */
/** Tables that are not taken along. */
export const LEFT_OUT: ReadonlySet<string> = new Set([
  'idempotency',
  'knex_migrations',
  'knex_migrations_lock',
  'sqlite_sequence',
  // Who may enter belongs to the machine: passwords, sessions and secrets are not taken along.
  'account',
  'session',
  'late_pass',
  'known_browser',
  'bench_device',
  'feed',
  // What is kept in memory by it is in nobody's memory on another machine.
  'instrument_touched',
]);

type Value = string | number | null;
type Row = Record<string, Value>;

/** With what the log was: an entry taken off its end in the file shows when it is brought in. */
const Head = z.object({ format: z.literal(FORMAT), schema: z.string(), log: Anchor.nullish() });

/** The tables with data of a database, in an order in which each comes after those it refers to. */
function tablesOf(db: Database.Database): string[] {
  const names = db
    .prepare("select name from sqlite_master where type = 'table' and name not like 'sqlite_%' order by name")
    .pluck()
    .all() as string[];
  return names.filter((n) => !LEFT_OUT.has(n));
}

const schemaOf = (db: Database.Database): string =>
  db.prepare('select name from knex_migrations order by id desc limit 1').pluck().get() as string;

/**
 * A whole programme as JSON, piece by piece: everything that is kept, with its photographs. One row is one line, so that
 * a large one is never held as a whole, and two of the same programme are the same bytes.
 */
export async function* programmeJson(folder: string): AsyncGenerator<string> {
  const db = new Database(join(folder, DATABASE_FILE), { readonly: true });
  try {
    // What is written meanwhile is not seen: all of it is of one moment.
    db.exec('begin');
    yield `{"format":${JSON.stringify(FORMAT)},"schema":${JSON.stringify(schemaOf(db))},"log":${JSON.stringify(anchorOf(db))},"tables":{`;
    let first = true;
    for (const table of tablesOf(db)) {
      yield `${first ? '' : ','}\n${JSON.stringify(table)}:[`;
      first = false;
      let row = '';
      for (const r of db.prepare(`select * from "${table}" order by rowid`).iterate() as Iterable<Row>) {
        if (row) yield `\n${row},`;
        row = JSON.stringify(r);
      }
      yield row ? `\n${row}]` : ']';
    }
    yield '},\n"photos":{';
    const hashes = db.prepare(`${WANTED} order by hash`).pluck().all() as string[];
    let photo = '';
    for (const hash of hashes) {
      const picture = await readPicture(hash, folder);
      if (!picture) continue;
      if (photo) yield `\n${photo},`;
      photo = `${JSON.stringify(hash)}:${JSON.stringify(picture.toString('base64'))}`;
    }
    yield photo ? `\n${photo}}}\n` : '}}\n';
  } finally {
    db.close();
  }
}

/** Why a file cannot be brought in, in words. */
export class CannotBring extends Error {
  override name = 'CannotBring';
}

const bad = (says: string) => new CannotBring(`${says} Nothing was changed.`);

/** What a file holds, line by line as `programmeJson` writes it. */
type Piece =
  | ({ kind: 'head' } & z.infer<typeof Head>)
  | { kind: 'table'; name: string }
  | { kind: 'row'; row: Row }
  | { kind: 'photo'; hash: string; data: string };

async function* pieces(lines: AsyncIterable<string>): AsyncGenerator<Piece> {
  let at = 0;
  let photos = false;
  let whole = false;
  for await (const line of lines) {
    at += 1;
    try {
      if (at === 1) {
        if (!line.endsWith('"tables":{')) throw bad('This is not an Arvick programme file.');
        yield { kind: 'head', ...Head.parse(JSON.parse(`${line.replace(/,"tables":\{$/, '')}}`)) };
        continue;
      }
      if (line === '') continue;
      if (line.startsWith('"photos":{')) {
        photos = true;
        if (line === '"photos":{}}') whole = true;
        continue;
      }
      const table = /^("[a-z_]+"):\[(?:\](?:\},|,)?)?$/.exec(line);
      if (table && !photos) {
        yield { kind: 'table', name: JSON.parse(table[1] as string) };
        continue;
      }
      if (photos) {
        if (line.endsWith('}}')) whole = true;
        const photo = JSON.parse(`{${line.replace(/"(?:,|\}\})$/, '"')}}`) as Record<string, string>;
        const [hash, data] = Object.entries(photo)[0] as [string, string];
        yield { kind: 'photo', hash, data };
        continue;
      }
      // A row ends its line with what stands between it and the next.
      yield { kind: 'row', row: JSON.parse(line.replace(/\}(?:\]\},|\],|\]|,)?$/, '}')) as Row };
    } catch (error) {
      if (error instanceof CannotBring) throw error;
      throw bad(`Line ${at} of the file cannot be read: it was changed or cut short.`);
    }
  }
  if (!whole) throw bad('The file ends too early: it was cut short. Copy it again.');
}

/**
 * Makes a programme out of a file that another Arvick wrote, in a folder that has none: whole, or not at all. A file of an
 * older version is brought up to date when it is opened.
 * @throws CannotBring, CannotOpen in words
 */
export async function bringProgramme(folder: string, source: Readable): Promise<{ rows: number; photos: number }> {
  prepareFolder(folder);
  if (existsSync(join(folder, DATABASE_FILE))) {
    const db = openReader(folder);
    const there = await db('programme')
      .first()
      .catch(() => true)
      .finally(() => db.destroy());
    if (there) throw bad(`There is already a programme in ${folder}. Name another folder with ARVICK_DATA.`);
    throw bad(`There is an empty programme in ${folder}. Remove its folder, or name another with ARVICK_DATA.`);
  }
  const counted = { rows: 0, photos: 0 };
  const reading = pieces(createInterface({ input: source, crlfDelay: Number.POSITIVE_INFINITY }));
  const head = (await reading.next()).value as Piece | undefined;
  if (head?.kind !== 'head') throw bad('This is not an Arvick programme file.');
  if (!Object.hasOwn(MIGRATIONS, head.schema))
    throw bad('The file comes from a newer version of Arvick. Update Arvick, then import the file.');
  await makeWhole(folder, async (making) => {
    await madeUpTo(making, head.schema);
    const db = new Database(join(making, DATABASE_FILE));
    try {
      db.pragma('foreign_keys = OFF');
      db.exec('begin');
      const known = new Set(tablesOf(db));
      let insert = null as { columns: string; statement: Database.Statement; keys: string[] } | null;
      let table = '';
      for await (const piece of reading) {
        if (piece.kind === 'table') {
          if (!known.has(piece.name))
            throw bad(`The file has a table “${piece.name}” that this version does not know.`);
          table = piece.name;
          insert = null;
          db.exec(`delete from "${table}"`);
        } else if (piece.kind === 'row') {
          const keys = Object.keys(piece.row);
          const columns = keys.join();
          if (insert?.columns !== columns) {
            if (!keys.every((k) => /^[a-z_0-9]+$/.test(k)))
              throw bad('A row in the file has columns that are not valid.');
            insert = {
              columns,
              keys,
              statement: db.prepare(
                `insert into "${table}" (${keys.map((k) => `"${k}"`).join()}) values (${keys.map(() => '?').join()})`,
              ),
            };
          }
          const { keys: own, statement } = insert;
          statement.run(own.map((k) => piece.row[k] ?? null));
          counted.rows += 1;
        } else if (piece.kind === 'photo') {
          const picture = Buffer.from(piece.data, 'base64');
          if ((await keepFile(folder, picture)) !== piece.hash) throw bad('A photo in the file is damaged.');
          counted.photos += 1;
        }
      }
      db.exec('commit');
      const broken = db.pragma('foreign_key_check') as unknown[];
      if (broken.length > 0)
        throw bad(
          `The file is not consistent: ${broken.length} of its rows ${plural(broken.length, 'refers', 'refer')} to something that is missing.`,
        );
      if (!db.prepare('select 1 from programme').get()) throw bad('There is no programme in the file.');
      if (head.log && JSON.stringify(anchorOf(db)) !== JSON.stringify(head.log))
        throw bad('The activity log in the file is not complete: entries were added to it or taken out of it.');
    } catch (error) {
      if (error instanceof CannotBring || error instanceof CannotOpen) throw error;
      throw bad(`The file does not fit this version: ${(error as Error).message}.`);
    } finally {
      db.close();
    }
  });
  return counted;
}

/** Reads a file from the disk. @throws CannotBring when there is none */
export function openFile(file: string): Readable {
  if (!existsSync(file)) throw bad(`File not found: ${file}.`);
  return createReadStream(file, 'utf8');
}
