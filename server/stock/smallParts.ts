import type { Knex } from 'knex';
import type { Finish } from '../../contract/bench';
import type { LocalDate } from '../../core/dates';
import { because } from '../../core/stock/why';
import { type MoveContext, receiveLot, writeMove } from './shelf';

export type SmallUse = NonNullable<Finish['small']>[number];

/** Why something was counted in that the book did not have. */

/**
 * Takes pins and spacers that were put in from the shelf of a place, the oldest first, and puts those saved from old strings
 * on it, worth nothing. Where nothing on the shelf stands for them, only the record knows.
 */
export async function bookSmallParts(
  trx: Knex,
  small: readonly SmallUse[],
  at: { placeId: number; today: LocalDate },
  context: MoveContext,
): Promise<void> {
  for (const { part, used, saved } of small) {
    const product = await trx('product').where({ small_part: part }).orderBy('id').first();
    if (!product) continue;
    const lot = {
      productId: product.id,
      form: 'single' as const,
      sealed: false,
      receivedOn: at.today,
      placeId: at.placeId,
    };
    if (saved > 0)
      await receiveLot(
        trx,
        { ...lot, unitCostCents: 0, quantity: saved, kind: 'count' },
        { ...context, reason: because('saved') },
      );
    let left = used;
    const take = async () => {
      const there = await trx('lot_balance as b')
        .join('lot as l', 'l.id', 'b.lot_id')
        .where({ 'l.product_id': product.id, 'b.place_id': at.placeId })
        .where('b.on_hand', '>', 0)
        .orderBy(['l.received_on', 'l.id'])
        .select('b.lot_id', 'b.on_hand');
      for (const row of there) {
        const quantity = Math.min(left, row.on_hand);
        if (quantity === 0) return;
        await writeMove(trx, { lotId: row.lot_id, placeId: at.placeId, kind: 'use', quantity: -quantity }, context);
        left -= quantity;
      }
    };
    await take();
    // They were there, since they are in the instrument now: counted in first, and the ledger shows both.
    if (left > 0) {
      await receiveLot(
        trx,
        { ...lot, unitCostCents: 0, quantity: left, kind: 'count' },
        { ...context, reason: because('found-part') },
      );
      await take();
    }
  }
}
