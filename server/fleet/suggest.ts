import type { Knex } from 'knex';
import type { Build } from '../../core/instruments/build';
import { stringNumbers } from '../../core/procedures/numbers';
import { suggestSet } from '../../core/strings/usual';
import { among } from '../db/among';
import { loadHouse } from '../methods/houseMethods';
import { stringToFit } from './fit';
import { loadProducts } from './instruments';

/** The set of the catalogue that suits a build: of its family, long enough everywhere, its pull nearest the usual. */
export async function suggestedSet(db: Knex, build: Build): Promise<number | null> {
  const sets = await db('product')
    .where({ kind: 'set', family: build.family })
    .whereNull('retired_on')
    // A set for one size is proposed for no other.
    .where((q) => q.whereNull('size').orWhere({ size: build.size }))
    .orderBy('id');
  const items = await db('set_item').whereIn(
    'set_id',
    among(
      db,
      sets.map((s) => s.id),
    ),
  );
  const products = await loadProducts(
    db,
    items.map((i) => i.product_id),
  );
  const { method } = (await loadHouse(db, build.family)).house;
  const candidates = sets.flatMap((set) => {
    const numbers = build.positions.flatMap((position) => {
      const item = items.find((i) => i.set_id === set.id && i.number === position.number);
      const product = item && products.get(item.product_id);
      return product ? [stringNumbers(build, method, position, stringToFit(position, product, false))] : [];
    });
    if (numbers.length < build.positions.length) return [];
    return [
      {
        id: set.id as number,
        pullN: numbers.reduce((sum, n) => sum + n.tensionN, 0),
        reaches: numbers.every((n) => n.reach.spareMm >= 0),
      },
    ];
  });
  return suggestSet(build, candidates);
}
