import type { Build } from '../../core/instruments/build';
import { stringNumbers } from '../../core/procedures/numbers';
import type { Method, StringToFit } from '../../core/procedures/types';
import { halfReaches } from '../../core/winding/cut';
import type { InstrumentPosition, StringProduct } from './instruments';

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
    flatWound: product.flatWound,
    hexCore: product.hexCore,
    coated: product.coated,
    ...(product.windingMm === null ? {} : { windingMm: product.windingMm }),
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
