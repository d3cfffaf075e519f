import type { Knex } from 'knex';
import type { PastWork } from '../../contract/bench';
import { plural } from '../../core/count';
import type { LocalDate } from '../../core/dates';
import { describeBuild } from '../../core/instruments/build';
import { tagKey } from '../../core/instruments/tag';
import { instantOf, localDate } from '../clock';
import { among } from '../db/among';
import { type Acting, change, insertId } from '../db/change';
import * as columns from '../db/columns';
import { notFound, refused } from '../errors';
import { type Instrument, loadMany } from '../fleet/instruments';
import { refreshInstrument } from '../fleet/state';
import { programmeRow } from '../programme/programme';

/** The hour of a day at which work of long ago is taken to have been done. */
const AT_HOUR = 12;

export interface PastChange {
  on: LocalDate;
  /** Nobody knows the day itself. */
  about: boolean;
  personId: number;
  note: string;
  /** Strings that went on; null: all of them. */
  numbers: readonly number[] | null;
  now: number;
  timeZone: string;
}

/** The instant of a change of which the day alone is known. */
export const pastInstant = (p: Pick<PastChange, 'on' | 'now' | 'timeZone'>): number =>
  Math.min(p.now, instantOf(p.on, AT_HOUR, p.timeZone));

/** What is written of a change of the past: its job, its record and a string's entry of it. */
export const pastRows = (p: PastChange, positions: readonly number[]) => {
  const at = pastInstant(p);
  return {
    job: {
      kind:
        positions.length === 1 ? ('one-string' as const) : p.numbers ? ('part-set' as const) : ('full-set' as const),
      status: 'finished' as const,
      strings: JSON.stringify(positions),
      halves: '[]',
      opened_by: p.personId,
      opened_at: at,
    },
    record: {
      kind: 'change',
      corrects_id: null,
      at,
      on_day: p.on,
      person_id: p.personId,
      done: columns.done.write({ did: 'past', all: p.numbers === null, about: p.about }),
      notes: p.note,
      minutes: null,
    },
    entry: { action: 'fit' as const, lot_id: null, broken: 0, cost_cents: 0, at },
  };
};

/** Writes a change of the past of one instrument and makes its state anew. @returns the record's id */
export async function writePast(
  trx: Knex,
  instrument: Pick<Instrument, 'id' | 'positions'>,
  p: PastChange,
): Promise<{ recordId: number; jobId: number }> {
  const fitted = instrument.positions.filter((x) => p.numbers === null || p.numbers.includes(x.number));
  const rows = pastRows(
    p,
    fitted.map((x) => x.number),
  );
  const jobId = await insertId(trx, 'job', { instrument_id: instrument.id, ...rows.job });
  const recordId = await insertId(trx, 'change_record', {
    job_id: jobId,
    instrument_id: instrument.id,
    ...rows.record,
  });
  await trx('string_entry').insert(
    fitted.map((x) => ({
      ...rows.entry,
      record_id: recordId,
      instrument_id: instrument.id,
      number: x.number,
      product_id: x.houseProductId,
      half: x.houseHalf,
    })),
  );
  await refreshInstrument(trx, instrument.id, p);
  return { recordId, jobId };
}

/**
 * Records string changes of the past, of several instruments at once: the usual strings went on that day. Nothing is taken
 * from the shelf and no visit is set; due dates follow. What is on record already is not changed by it.
 * @throws UserError `not-past` for a day ahead, `no-such-tag` with all tags nobody has, `later-change` with those whose
 *   strings on record are newer, `on-the-bench` with those whose job is open
 */
export async function recordPast(db: Knex, acting: Acting, p: PastWork): Promise<{ recorded: number }> {
  return change(db, acting, 'record.past', p, async (trx) => {
    const { time_zone: timeZone } = await programmeRow(trx);
    const today = localDate(acting.now, timeZone);
    if (p.on > today)
      throw refused(
        'not-past',
        'That day is in the future',
        `That day is in the future. Choose today or an earlier day.`,
      );
    const keys = [...new Set(p.tags.map(tagKey))];
    const rows = await trx('instrument')
      .whereIn('tag_key', among(trx, keys))
      .whereNull('retired_on')
      .select('id', 'tag', 'tag_key');
    const missing = keys.filter((k) => !rows.some((r) => r.tag_key === k));
    if (missing.length > 0)
      throw refused(
        'no-such-tag',
        'No such tags',
        `Tags not found: ${p.tags.filter((t) => missing.includes(tagKey(t))).join(', ')}. Nothing was recorded.`,
      );
    const ids = rows.map((r) => r.id);
    const tagOf = new Map(rows.map((r) => [r.id, r.tag]));
    const named = (list: readonly number[]) =>
      list
        .slice(0, 12)
        .map((id) => tagOf.get(id))
        .join(', ') + (list.length > 12 ? ` and ${list.length - 12} more` : '');
    const newer = await trx('standing_record')
      .whereIn('instrument_id', among(trx, ids))
      .where({ kind: 'change' })
      .where('on_day', '>=', p.on)
      .distinct('instrument_id')
      .pluck('instrument_id');
    if (newer.length > 0)
      throw refused(
        'later-change',
        'A later change is on record',
        `${named(newer)}: a string change on that day or later is already on record. Leave ${plural(newer.length, 'it', 'them')} out, or undo that record first.`,
      );
    const open = await trx('job')
      .whereIn('instrument_id', among(trx, ids))
      .where({ status: 'open' })
      .pluck('instrument_id');
    if (open.length > 0)
      throw refused(
        'on-the-bench',
        'On the bench',
        `On the bench now: ${named(open)}. Finish or close that work first.`,
      );
    const person = await trx('person')
      .where({ id: p.personId ?? acting.personId })
      .first();
    if (!person) throw notFound('This person');
    for (const instrument of await loadMany(trx, ids))
      await writePast(trx, instrument, {
        on: p.on,
        about: p.about,
        personId: person.id,
        note: p.note,
        numbers: null,
        now: acting.now,
        timeZone,
      });
    return { result: { recorded: rows.length }, entity: 'change_record', entityId: 0 };
  });
}

/** An instrument whose strings nobody knows the age of. */
export interface UnknownAge {
  tag: string;
  name: string;
  place: string;
  holder: string;
  /** Its usual strings are in the catalogue, so that what went on is known with the day. */
  strung: boolean;
}

/** Instruments whose strings are of unknown age, by place and tag. */
export async function unknownAges(db: Knex, most: number): Promise<{ list: UnknownAge[]; all: number }> {
  const query = () => db('instrument_state as s').where({ 's.due_by': 'unknown-age' });
  const rows = await query()
    .join('instrument as i', 'i.id', 's.instrument_id')
    .orderBy(['s.place_name', 's.tag'])
    .limit(most)
    .select('s.tag', 's.family', 's.size', 's.place_name', 's.holder', 'i.house_set_id');
  const counted = await query().count({ n: '*' }).first();
  return {
    list: rows.map((r) => ({
      tag: r.tag,
      name: describeBuild(r.family, r.size),
      place: r.place_name,
      holder: r.holder,
      strung: r.house_set_id !== null,
    })),
    all: Number(counted?.n ?? 0),
  };
}
