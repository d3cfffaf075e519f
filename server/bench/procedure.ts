import { createHash } from 'node:crypto';
import type { Knex } from 'knex';
import type { Build } from '../../core/instruments/build';
import { composeProcedure } from '../../core/procedures/compose';
import { stringNumbers } from '../../core/procedures/numbers';
import type { Gap, Method, Procedure, StringToFit } from '../../core/procedures/types';
import { halfReaches } from '../../core/winding/cut';
import type { Instrument, InstrumentPosition, StringProduct } from '../fleet/instruments';

/** A product as the string that would go on at a position. */
export function stringToFit(
  position: Pick<InstrumentPosition, 'number'>,
  product: StringProduct,
  half: boolean,
): StringToFit {
  return {
    number: position.number,
    name: product.name,
    gaugeMm: product.gaugeMm,
    coreMm: product.coreMm,
    core: product.core,
    wound: product.wrap !== null,
    massKgPerM: product.massKgPerM,
    lengthMm: product.lengthMm,
    half,
  };
}

/** True when half of this double-length string is long enough for this position. */
export function halfServes(
  build: Build,
  method: Method,
  number: number,
  product: StringProduct,
  a4Hz: number,
): boolean {
  const position = build.positions.find((p) => p.number === number);
  if (!product.doubleLength || !position) return false;
  const { neededLengthMm } = stringNumbers(build, method, position, stringToFit(position, product, true), a4Hz);
  return halfReaches(product.lengthMm, neededLengthMm);
}

/** The house strings of an instrument, with half a string where that reaches. */
export function houseStrings(instrument: Instrument, products: ReadonlyMap<number, StringProduct>): StringToFit[] {
  return instrument.positions.flatMap((p) => {
    const product = p.houseProductId === null ? undefined : products.get(p.houseProductId);
    return product ? [stringToFit(p, product, p.houseHalf)] : [];
  });
}

/** The procedure for an instrument with its house strings, or why there is none. */
export function procedureFor(
  instrument: Instrument,
  method: Method,
  products: ReadonlyMap<number, StringProduct>,
): { procedure: Procedure } | { gaps: Gap[] } {
  const strings = houseStrings(instrument, products);
  if (strings.length < instrument.positions.length) {
    return { gaps: [{ capability: 'seat-tail', needs: 'a house string for every position' }] };
  }
  return composeProcedure(instrument.build, method, strings);
}

/** Keeps a procedure as it was used; the same one is kept once. */
export async function keepSnapshot(trx: Knex, procedure: Procedure): Promise<string> {
  const body = JSON.stringify(procedure);
  const hash = createHash('sha256').update(body).digest('base64url');
  await trx('procedure_snapshot').insert({ hash, body }).onConflict('hash').ignore();
  return hash;
}
