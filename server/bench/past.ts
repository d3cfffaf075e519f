import type { Knex } from 'knex';
import type { PastWork } from '../../contract/bench';
import { describeBuild } from '../../core/instruments/build';
import { tagKey } from '../../core/instruments/tag';
import { instantOf, localDate } from '../clock';
import { among } from '../db/among';
import { type Acting, change, insertId } from '../db/change';
import { notFound, refused } from '../errors';
import { loadMany } from '../fleet/instruments';
import { refreshInstrument } from '../fleet/state';
import { programmeRow } from '../programme/programme';

/** The hour of a day at which work of long ago is taken to have been done. */
const AT_HOUR = 12;

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
      throw refused('not-past', 'That day is still to come', `Choose today, ${today}, or a day before.`);
    const keys = [...new Set(p.tags.map(tagKey))];
    const rows = await trx('instrument').whereIn('tag_key', among(trx, keys)).select('id', 'tag', 'tag_key');
    const missing = keys.filter((k) => !rows.some((r) => r.tag_key === k));
    if (missing.length > 0)
      throw refused(
        'no-such-tag',
        'Nobody has these tags',
        `${p.tags.filter((t) => missing.includes(tagKey(t))).join(', ')}. Nothing was recorded.`,
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
        `${named(newer)}: strings went on that day or later. Leave ${newer.length === 1 ? 'it' : 'them'} out, or take that record back first.`,
      );
    const open = await trx('job')
      .whereIn('instrument_id', among(trx, ids))
      .where({ status: 'open' })
      .pluck('instrument_id');
    if (open.length > 0)
      throw refused('on-the-bench', 'Open on the bench', `${named(open)}: finish or put away the open job first.`);
    const person = await trx('person')
      .where({ id: p.personId ?? acting.personId })
      .first();
    if (!person) throw notFound('This person');
    const at = Math.min(acting.now, instantOf(p.on, AT_HOUR, timeZone));
    for (const instrument of await loadMany(trx, ids)) {
      const jobId = await insertId(trx, 'job', {
        instrument_id: instrument.id,
        kind: 'full-set',
        status: 'finished',
        strings: JSON.stringify(instrument.positions.map((x) => x.number)),
        halves: '[]',
        opened_by: person.id,
        opened_at: at,
      });
      const recordId = await insertId(trx, 'change_record', {
        job_id: jobId,
        instrument_id: instrument.id,
        kind: 'change',
        corrects_id: null,
        at,
        on_day: p.on,
        person_id: person.id,
        summary: `${p.about ? 'about then: ' : ''}new strings, entered later`,
        notes: p.note,
        minutes: null,
      });
      for (const position of instrument.positions)
        await trx('string_entry').insert({
          record_id: recordId,
          instrument_id: instrument.id,
          number: position.number,
          action: 'fit',
          product_id: position.houseProductId,
          lot_id: null,
          half: position.houseHalf,
          broken: 0,
          cost_cents: 0,
          at,
        });
      await refreshInstrument(trx, instrument.id, { now: acting.now, timeZone });
    }
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
