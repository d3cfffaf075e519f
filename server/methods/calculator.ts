import type { Knex } from 'knex';
import type { Build, Family } from '../../core/instruments/build';
import { usualBuild } from '../../core/procedures/houseMethod';
import type { Method } from '../../core/procedures/types';
import { usualSet } from '../../core/strings/usual';
import { loadInstrument, loadProducts, type StringProduct } from '../fleet/instruments';
import { suggestedSet } from '../fleet/suggest';
import { loadHouse } from './houseMethods';

/** A string as the calculator takes it. */
type Known = Pick<StringProduct, 'name' | 'gaugeMm' | 'coreMm' | 'core' | 'wrap' | 'massKgPerM' | 'lengthMm'>;

const known = (p: StringProduct): Known => ({
  name: p.name,
  gaugeMm: p.gaugeMm,
  coreMm: p.coreMm,
  core: p.core,
  wrap: p.wrap,
  massKgPerM: p.massKgPerM,
  lengthMm: p.lengthMm,
});

export interface CalculatorData {
  tag: string | null;
  build: Build;
  method: Method;
  strings: Record<number, Known>;
  before: Record<number, Known>;
  sets: { id: string; name: string; family: Family; strings: Record<number, Known> }[];
}

/**
 * What the calculator starts from: an instrument with its house strings against those that are on, or a usual guitar.
 * @throws UserError not-found for a tag that does not exist
 */
export async function calculatorData(db: Knex, tag: string | null): Promise<CalculatorData> {
  const rows = await db('product').where({ kind: 'set' }).orderBy(['family', 'name']);
  const items = await db('set_item').orderBy('set_id');
  const instrument = tag === null ? null : await loadInstrument(db, { tag });
  const products = await loadProducts(db, [
    ...items.map((i) => i.product_id as number),
    ...(instrument?.positions.flatMap((p) => [p.houseProductId, p.now.productId]) ?? []),
  ]);
  const pick = (list: readonly (readonly [number, number | null])[]): Record<number, Known> =>
    Object.fromEntries(
      list.flatMap(([number, id]) => {
        const product = products.get(id ?? -1);
        return product ? [[number, known(product)]] : [];
      }),
    );
  const sets = rows.map((set) => ({
    id: String(set.id),
    name: set.name as string,
    family: set.family as Family,
    strings: pick(items.filter((i) => i.set_id === set.id).map((i) => [i.number, i.product_id] as const)),
  }));
  if (instrument) {
    const strings = pick(instrument.positions.map((p) => [p.number, p.houseProductId] as const));
    return {
      tag,
      build: instrument.build,
      method: (await loadHouse(db, instrument.build.family)).house.method,
      strings: Object.keys(strings).length ? strings : usual(instrument.build),
      before: pick(instrument.positions.map((p) => [p.number, p.now.state === 'on' ? p.now.productId : null] as const)),
      sets,
    };
  }
  const build = usualBuild('steel-acoustic');
  const suits = await suggestedSet(db, build);
  const first = sets.find((s) => s.id === String(suits));
  return {
    tag: null,
    build,
    method: (await loadHouse(db, build.family)).house.method,
    strings: first?.strings ?? usual(build),
    before: {},
    sets,
  };
}

const usual = (build: Build): Record<number, Known> =>
  Object.fromEntries(usualSet(build).map((s) => [s.number, { ...s, name: 'usual for this instrument' }]));
