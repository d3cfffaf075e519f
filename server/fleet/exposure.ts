import type { Knex } from 'knex';
import { CLIMATE_NAMES, type Climate, PLAYER_NAMES, type Player } from '../../core/wear/exposure';
import { type Acting, change } from '../db/change';
import { requireSeen } from '../db/seen';
import { notFound } from '../errors';
import { programmeRow } from '../programme/programme';
import { findByTag } from './instruments';
import { refreshInstrument, refreshStates } from './state';

/** Says what the air of a place is like; every instrument kept there gets its due date anew. */
export async function setClimate(
  db: Knex,
  acting: Acting,
  p: { placeId: number; climate: Climate; was?: string | undefined },
): Promise<{ instruments: number }> {
  return change(db, acting, 'place.climate', p, async (trx) => {
    const place = await trx('place').where({ id: p.placeId }).first('climate');
    if (!place) throw notFound('This place');
    requireSeen(p.was, place.climate, CLIMATE_NAMES[place.climate]);
    await trx('place').where({ id: p.placeId }).update({ climate: p.climate });
    const programme = await programmeRow(trx);
    const ids: number[] = await trx('instrument').where({ place_id: p.placeId }).pluck('id');
    await refreshStates(trx, ids, { now: acting.now, timeZone: programme.time_zone });
    return { result: { instruments: ids.length }, entity: 'place', entityId: p.placeId };
  });
}

/** Says how hard an instrument's players are on strings; its due date follows. */
export async function setPlayer(
  db: Knex,
  acting: Acting,
  p: { tag: string; player: Player; was?: string | undefined },
): Promise<{ player: Player }> {
  return change(db, acting, 'instrument.player', p, async (trx) => {
    const row = await findByTag(trx, p.tag);
    if (!row) throw notFound(`“${p.tag}”`);
    requireSeen(p.was, row.player, PLAYER_NAMES[row.player as Player]);
    await trx('instrument').where({ id: row.id }).update({ player: p.player });
    const programme = await programmeRow(trx);
    await refreshInstrument(trx, row.id, { now: acting.now, timeZone: programme.time_zone });
    return { result: { player: p.player }, entity: 'instrument', entityId: row.id };
  });
}
