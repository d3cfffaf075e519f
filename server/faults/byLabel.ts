import type { Knex } from 'knex';
import { WRONGS, type WrongId } from '../../core/faults/wrongs';
import { newToken } from '../access/secrets';
import { NOBODY } from '../audit/entries';
import { among } from '../db/among';
import { type Acting, change, insertId } from '../db/change';
import * as columns from '../db/columns';
import { dataFolder } from '../db/connection';
import { insertAll } from '../db/insertAll';
import { transact } from '../db/transact';
import { conflict, notFound, refused } from '../errors';
import { type Instrument, loadInstrument, requireHere } from '../fleet/instruments';
import { asKept, keepFile, readPicture } from '../photos/files';
import { programmeRow } from '../programme/programme';
import { follow, keepWithInstrument, requireWrong, wordsRow } from './wrong';

/** A token is cut to 128 bits: nobody guesses it, and the code on a label stays coarse enough for any camera. */
const TOKEN_SIGNS = 22;
/** So much may wait of one instrument, and of all: more says nothing new, or is meant to bury the rest. */
const MOST_OF_ONE = 4;
const MOST_WAITING = 200;

/** What the codes on labels lead to: an address by instrument; null where the programme has none, or does not allow it. */
export async function labelAddresses(
  db: Knex,
  ids: readonly number[],
  now: number,
): Promise<Map<number, string> | null> {
  const { address, by_label: allowed } = await programmeRow(db);
  if (!address || !allowed) return null;
  const known = async () =>
    new Map<number, string>(
      (await db('label_link').whereIn('instrument_id', among(db, ids)).whereNull('revoked_at')).map((l) => [
        l.instrument_id,
        `${address}/r/${l.token}`,
      ]),
    );
  const there = await known();
  if (ids.every((id) => there.has(id))) return there;
  return transact(db, async (trx) => {
    const has = new Set<number>(
      await trx('label_link').whereIn('instrument_id', among(trx, ids)).whereNull('revoked_at').pluck('instrument_id'),
    );
    await insertAll(
      trx,
      'label_link',
      ids
        .filter((id) => !has.has(id))
        .map((id) => ({ token: newToken().slice(0, TOKEN_SIGNS), instrument_id: id, made_at: now })),
    );
    return new Map<number, string>(
      (await trx('label_link').whereIn('instrument_id', among(trx, ids)).whereNull('revoked_at')).map((l) => [
        l.instrument_id,
        `${address}/r/${l.token}`,
      ]),
    );
  });
}

/** The instrument of the code on a label; null where there is none, not any more, or the programme does not allow it. */
export async function instrumentOfLabel(db: Knex, token: string): Promise<Instrument | null> {
  if (token.length !== TOKEN_SIGNS) return null;
  const { by_label: allowed } = await programmeRow(db);
  if (!allowed) return null;
  const link = await db('label_link').where({ token }).whereNull('revoked_at').first('instrument_id');
  return link ? loadInstrument(db, { id: link.instrument_id }) : null;
}

/** Whether a label of an instrument may be about whose code leads somewhere. */
export const hasOpenLabel = async (db: Knex, instrumentId: number): Promise<boolean> =>
  (await db('label_link').where({ instrument_id: instrumentId }).whereNull('revoked_at').first('id')) !== undefined;

/** The code on an instrument's label leads nowhere any more; the next label has another. */
export async function endLabel(db: Knex, acting: Acting, p: { tag: string }): Promise<{ ended: number }> {
  return change(db, acting, 'label.end', p, async (trx) => {
    const instrument = await loadInstrument(trx, { tag: p.tag });
    const ended = await trx('label_link')
      .where({ instrument_id: instrument.id })
      .whereNull('revoked_at')
      .update({ revoked_at: acting.now });
    if (ended === 0) throw notFound('A label code for this instrument');
    return { result: { ended }, entity: 'instrument', entityId: instrument.id };
  });
}

/**
 * Whoever stands before an instrument says by its label that something is wrong. It waits until somebody of the
 * programme has taken it up: nothing is done in the name of nobody.
 * @throws UserError not-found, `gone`, `no-such-wrong`, `no-picture`, `waits-already`
 */
export async function sayByLabel(
  db: Knex,
  p: {
    token: string;
    wrong: WrongId;
    numbers: number[];
    text: string;
    who: string;
    key: string;
    now: number;
    from: string;
    picture: Uint8Array | null;
  },
  data = dataFolder(),
): Promise<{ id: number }> {
  const { picture, now, from, key, ...request } = p;
  const there = await instrumentOfLabel(db, p.token);
  if (!there) throw notFound('The code on this label');
  // Before any work on a picture: what cannot be taken is refused.
  await requireRoom(db, there.id);
  const hash = picture && (await keepFile(data, await asKept(picture)));
  // The key is a form's own: it is told apart by what it was made for.
  const acting: Acting = { personId: NOBODY, now, key: `label/${p.token}/${key}`, from };
  return change(db, acting, 'label.said', { ...request, hash }, async (trx) => {
    const instrument = await instrumentOfLabel(trx, p.token);
    if (!instrument) throw notFound('The code on this label');
    requireHere(instrument);
    const numbers = requireWrong(instrument, p);
    await requireRoom(trx, instrument.id);
    const id = await insertId(
      trx,
      'said',
      await wordsRow(trx, instrument, { ...request, numbers, hash, now, personId: null }),
    );
    return { result: { id }, entity: 'said', entityId: id };
  });
}

/** @throws UserError `waits-already` when enough waits to be looked at */
async function requireRoom(db: Knex, instrumentId: number): Promise<void> {
  const waits = db('said').whereNull('taken_at');
  const [own] = await waits.clone().where({ instrument_id: instrumentId }).count({ n: '*' });
  const [all] = await waits.clone().count({ n: '*' });
  if (Number(own?.n ?? 0) >= MOST_OF_ONE || Number(all?.n ?? 0) >= MOST_WAITING)
    throw refused(
      'waits-already',
      'Enough reports are waiting',
      'Earlier reports are still waiting to be read. Tell someone from the programme if this cannot wait.',
    );
}

/** What was said by labels and waits until somebody takes it up. */
export interface WaitingWord {
  id: number;
  version: number;
  tag: string;
  place: string;
  at: number;
  wrong: WrongId;
  numbers: number[];
  text: string;
  who: string;
  hash: string | null;
}

/** What waits, the oldest first. */
export async function waitingWords(db: Knex, most: number): Promise<WaitingWord[]> {
  const rows = await db('said as s')
    .join('instrument as i', 'i.id', 's.instrument_id')
    .join('place as l', 'l.id', 'i.place_id')
    .whereNull('s.taken_at')
    .whereNull('i.retired_on')
    .orderBy('s.id')
    .limit(most)
    .select('s.*', 'i.tag', 'l.name as place');
  return rows.map((r) => ({
    id: r.id,
    version: r.version,
    tag: r.tag,
    place: r.place,
    at: r.at,
    wrong: r.wrong,
    numbers: columns.numbers.read(r.numbers),
    text: r.text,
    who: r.who,
    hash: r.hash,
  }));
}

/** @throws UserError not-found, conflict */
async function wordAsSeen(trx: Knex, p: { id: number; expectedVersion: number }) {
  const row = await trx('said').where({ id: p.id }).first();
  if (!row) throw notFound('This report');
  if (row.taken_at !== null || row.version !== p.expectedVersion)
    throw conflict('Someone has already dealt with this report. Reload to see what became of it.', {
      currentVersion: row.version,
    });
  return row;
}

/** Somebody of the programme takes up what was said by a label: it becomes a report or a case in their name. */
export async function takeUp(
  db: Knex,
  acting: Acting,
  p: { id: number; expectedVersion: number },
  data = dataFolder(),
): Promise<{ reportId: number | null; caseId: number | null }> {
  return change(db, acting, 'label.taken', p, async (trx) => {
    const row = await wordAsSeen(trx, p);
    const instrument = await loadInstrument(trx, { id: row.instrument_id });
    requireHere(instrument);
    const wrong = row.wrong as WrongId;
    const becomes = await follow(trx, acting, instrument, {
      wrong,
      numbers: columns.numbers.read(row.numbers),
      text: row.text,
      who: row.who || 'somebody',
    });
    await keepWithInstrument(trx, acting, {
      instrumentId: instrument.id,
      hash: row.hash,
      wrong,
      bytes: row.hash === null ? 0 : ((await readPicture(row.hash, data))?.length ?? 0),
    });
    await trx('said')
      .where({ id: row.id })
      .update({
        report_id: becomes.reportId,
        case_id: becomes.caseId,
        taken_by: acting.personId,
        taken_at: acting.now,
        version: row.version + 1,
      });
    return { result: becomes, entity: 'said', entityId: row.id };
  });
}

/** There is nothing in it, or it was no such thing: its photograph goes with it. */
export async function nothingInIt(
  db: Knex,
  acting: Acting,
  p: { id: number; expectedVersion: number },
): Promise<{ closed: true }> {
  return change(db, acting, 'label.nothing', p, async (trx) => {
    const row = await wordAsSeen(trx, p);
    await trx('said')
      .where({ id: row.id })
      .update({ taken_by: acting.personId, taken_at: acting.now, hash: null, version: row.version + 1 });
    return { result: { closed: true as const }, entity: 'said', entityId: row.id };
  });
}

/** What became of what somebody said. */
export interface Word {
  id: number;
  tag: string;
  on: string;
  wrong: WrongId;
  became: 'waits' | 'taken' | 'on-bench' | 'done' | 'with-repairer' | 'nothing';
  /** When it was done or looked at. */
  doneOn: string | null;
}

const wordsQuery = (db: Knex) =>
  db('said as s')
    .join('instrument as i', 'i.id', 's.instrument_id')
    .leftJoin('report as r', 'r.id', 's.report_id')
    .leftJoin('change_record as c', 'c.id', 'r.closed_by_record_id')
    .leftJoin('fault_case as f', 'f.id', 's.case_id')
    .orderBy('s.id', 'desc')
    .select(
      's.id',
      's.on_day',
      's.wrong',
      's.taken_at',
      's.report_id',
      's.case_id',
      'i.tag',
      'r.closed_by_record_id',
      'c.on_day as done_on',
      'f.status',
      'f.closed_at',
      db.raw("exists (select 1 from job as j where j.instrument_id = i.id and j.status = 'open') as on_bench"),
    );

const wordOf = (r: Record<string, unknown>): Word => ({
  id: r.id as number,
  tag: r.tag as string,
  on: r.on_day as string,
  wrong: (r.wrong as string) in WRONGS ? (r.wrong as WrongId) : 'other',
  became:
    r.taken_at === null
      ? 'waits'
      : r.case_id !== null
        ? r.status === 'open'
          ? 'with-repairer'
          : 'done'
        : r.report_id === null
          ? 'nothing'
          : r.closed_by_record_id !== null
            ? 'done'
            : r.on_bench
              ? 'on-bench'
              : 'taken',
  doneOn: (r.done_on as string | null) ?? null,
});

/** What was said of an instrument lately, the latest first; nobody's name is in it. */
export const wordsOfInstrument = async (db: Knex, instrumentId: number, since: string): Promise<Word[]> =>
  (await wordsQuery(db).where('s.instrument_id', instrumentId).where('s.on_day', '>=', since).limit(5)).map(wordOf);

/** What somebody who signs in said lately. */
export const wordsOfPerson = async (db: Knex, personId: number, since: string): Promise<Word[]> =>
  (await wordsQuery(db).where('s.person_id', personId).where('s.on_day', '>=', since).limit(12)).map(wordOf);

/** What became of it, in words. */
export const BECAME: Record<Word['became'], string> = {
  waits: 'waiting to be read',
  taken: 'accepted; the work is still to be done',
  'on-bench': 'on the bench now',
  done: 'dealt with',
  'with-repairer': 'waiting for a qualified repairer',
  nothing: 'checked: no fault found',
};
