import type { Knex } from 'knex';
import type { Details } from '../../contract/fleet';
import type { LocalDate } from '../../core/dates';
import { tagKey, tagPath } from '../../core/instruments/tag';
import { localDate } from '../clock';
import { type Acting, change } from '../db/change';
import { conflict, notFound, refused } from '../errors';
import { programmeRow } from '../programme/programme';
import { findByTag } from './instruments';
import { refreshStates } from './state';

/**
 * Puts right what is said of an instrument beside its build, or moves it: tag, place, holder, remarks. Open jobs, visits and
 * records go with it, since they hang on the instrument and not on its tag.
 * @throws UserError not-found, `tag-taken`, `conflict`
 */
export async function editDetails(
  db: Knex,
  acting: Acting,
  p: Details & { tag: string },
): Promise<{ location: string }> {
  return change(db, acting, 'instrument.details', p, async (trx) => {
    const row = await findByTag(trx, p.tag);
    if (!row) throw notFound(`“${p.tag}”`);
    if (row.version !== p.expectedVersion)
      throw conflict('Someone else has changed this instrument. Reload to see it, then change it again.', {
        currentVersion: row.version,
        current: { tag: row.tag, placeId: row.place_id, holder: row.holder, note: row.note },
      });
    if (!(await trx('place').where({ id: p.placeId }).whereNull('retired_on').first())) throw notFound('This place');
    const taken = await findByTag(trx, p.newTag);
    if (taken && taken.id !== row.id)
      throw refused(
        'tag-taken',
        'This tag is taken',
        `${taken.tag} is already on another instrument. Use a different tag.`,
      );
    await trx('instrument')
      .where({ id: row.id })
      .update({
        tag: p.newTag,
        tag_key: tagKey(p.newTag),
        place_id: p.placeId,
        holder: p.holder,
        note: p.note,
        ...(p.maker === undefined ? {} : { maker: p.maker }),
        ...(p.model === undefined ? {} : { model: p.model }),
        ...(p.serial === undefined ? {} : { serial: p.serial }),
        ...(p.takesTwo === undefined ? {} : { takes_two: p.takesTwo === 'two' }),
        version: row.version + 1,
      });
    const programme = await programmeRow(trx);
    if (typeof p.hoursPerWeek === 'number')
      await playedFrom(trx, row.id, p.hoursPerWeek, localDate(acting.now, programme.time_zone));
    await refreshStates(trx, [row.id], { now: acting.now, timeZone: programme.time_zone });
    return {
      result: { location: `/instruments/${tagPath(p.newTag)}` },
      entity: 'instrument',
      entityId: row.id,
      detail: { before: { tag: row.tag, placeId: row.place_id, holder: row.holder, note: row.note }, after: p },
    };
  });
}

/** From a day on an instrument is played so many hours a week, by whatever it was before. */
async function playedFrom(trx: Knex, id: number, hoursPerWeek: number, on: LocalDate): Promise<void> {
  const now = await trx('use_period').where({ instrument_id: id }).whereNull('to_on');
  if (now.reduce((sum, u) => sum + u.hours_per_week, 0) === hoursPerWeek) return;
  await trx('use_period')
    .where({ instrument_id: id })
    .whereNull('to_on')
    .where('from_on', '<', on)
    .update({ to_on: on });
  // What was said on this day already is said anew.
  await trx('use_period').where({ instrument_id: id }).whereNull('to_on').del();
  if (hoursPerWeek > 0)
    await trx('use_period').insert({
      instrument_id: id,
      from_on: on,
      to_on: null,
      hours_per_week: hoursPerWeek,
      source: 'as corrected',
    });
}
