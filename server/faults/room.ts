import type { Knex } from 'knex';
import type { LocalDate } from '../../core/dates';
import { tagKey } from '../../core/instruments/tag';
import { localDate } from '../clock';
import { among } from '../db/among';
import { type Acting, change } from '../db/change';
import { notFound } from '../errors';
import { programmeRow } from '../programme/programme';

/** An instrument that stood in the same air as one that was found slack. */
export interface Neighbour {
  tag: string;
  holder: string;
  /** The day a look is asked for, if one is already. */
  askedFor: LocalDate | null;
}

/**
 * The other instruments of the place whose wooden pegs dry air shrinks as well; geared pegs do not slip by drying. Common
 * practice, no source.
 */
export async function sameAir(db: Knex, tag: string): Promise<Neighbour[]> {
  const slack = await db('instrument')
    .where({ tag_key: tagKey(tag) })
    .first();
  if (!slack) throw notFound(`“${tag}”`);
  const rows = await db('instrument as i')
    .leftJoin('plan_request as r', (on) =>
      on.on('r.instrument_id', 'i.id').onVal('r.status', 'open').onVal('r.kind', 'inspection'),
    )
    .where({ 'i.place_id': slack.place_id, 'i.tuner': 'tapered-peg' })
    .whereNot('i.id', slack.id)
    .orderBy('i.tag')
    .limit(500)
    .select('i.tag', 'i.holder', 'r.due_on');
  return rows.map((r) => ({ tag: r.tag, holder: r.holder, askedFor: r.due_on }));
}

/** Asks for a look at them today; where one is asked for already, it stays as it is. */
export async function askToLook(
  db: Knex,
  acting: Acting,
  p: { caseId: number; tags: readonly string[] },
): Promise<{ asked: number }> {
  return change(db, acting, 'fault.room', p, async (trx) => {
    const found = await trx('fault_case as f')
      .join('instrument as i', 'i.id', 'f.instrument_id')
      .where('f.id', p.caseId)
      .select('i.tag')
      .first();
    if (!found) throw notFound('This case');
    const { time_zone: timeZone } = await programmeRow(trx);
    const ids: number[] = await trx('instrument')
      .whereIn('tag_key', among(trx, p.tags.map(tagKey)))
      .whereNotIn('id', trx('plan_request').where({ status: 'open', kind: 'inspection' }).select('instrument_id'))
      .pluck('id');
    for (const id of ids)
      await trx('plan_request').insert({
        instrument_id: id,
        kind: 'inspection',
        due_on: localDate(acting.now, timeZone),
        why: `same room as ${found.tag}, found slack`,
        person_id: acting.personId,
        at: acting.now,
        status: 'open',
      });
    return { result: { asked: ids.length }, entity: 'fault_case', entityId: p.caseId };
  });
}
