import type { Knex } from 'knex';
import type { House } from '../../core/procedures/houseMethod';
import { programmeRow } from '../programme/programme';
import { halfServes } from './fit';
import { loadMany, loadProducts } from './instruments';

/**
 * Keeps for every position of some instruments whether half of its house string reaches by the house method in force. It
 * is asked whenever a build, a house string or a house method changed, and is the only answer for work that is not begun.
 */
export async function refreshHalves(
  trx: Knex,
  instrumentIds: readonly number[],
  houses: ReadonlyMap<string, { house: House }>,
): Promise<void> {
  const programme = await programmeRow(trx);
  const instruments = await loadMany(trx, instrumentIds);
  const products = await loadProducts(
    trx,
    instruments.flatMap((i) => i.positions.map((p) => p.houseProductId)),
  );
  for (const instrument of instruments) {
    const method = houses.get(instrument.build.family)?.house.method;
    for (const p of instrument.positions) {
      const product = products.get(p.houseProductId ?? -1);
      const half = Boolean(
        method && product && halfServes(instrument.build, method, p.number, product, programme.a4_hz),
      );
      if (half !== p.houseHalf)
        await trx('instrument_position')
          .where({ instrument_id: instrument.id, number: p.number })
          .update({ house_half: half });
    }
  }
}

/** Instruments of a family that have a double-length house string: a method may cut those otherwise. */
export const withDoubleLength = (trx: Knex, family: string): Promise<number[]> =>
  trx('instrument as i')
    .where('i.family', family)
    .whereIn(
      'i.id',
      trx('instrument_position as p')
        .join('product as s', 's.id', 'p.house_product_id')
        .where('s.double_length', true)
        .select('p.instrument_id'),
    )
    .pluck('i.id');
