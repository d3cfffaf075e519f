import type { Knex } from 'knex';
import type { Finish, FinishEntry } from '../../contract/bench';
import type { Method } from '../../core/procedures/types';
import type { DrawPlan, Need } from '../../core/stock/draw';
import * as columns from '../db/columns';
import { must } from '../db/must';
import { refused } from '../errors';
import { halfServes } from '../fleet/fit';
import { type Instrument, loadInstrument, loadProducts, type StringProduct } from '../fleet/instruments';
import { loadHouse } from '../methods/houseMethods';
import { programmeRow } from '../programme/programme';
import { shelfForJob } from '../stock/reserve';
import type { PlacedLot } from '../stock/shelf';
import { type LossRow, lossesOf } from './losses';

/** What was done, as the bench sends it, with the job it was done on. */
export type FinishRequest = Finish & { jobId: number };

export interface Prepared {
  instrument: Instrument;
  products: Map<number, StringProduct>;
  needs: (Need & { found: boolean })[];
  /** Lost strings that were taken from the shelf when they broke, and those of them that did not break after all. */
  lost: LossRow[];
  notLost: LossRow[];
  plan: DrawPlan;
  shelf: PlacedLot[];
  placeId: number;
}

/** Works out which lots a finish takes, without writing anything. */
export async function prepare(
  db: Knex,
  personId: number,
  job: { id: number; instrument_id: number },
  entries: readonly FinishEntry[],
): Promise<Prepared> {
  const instrumentId = job.instrument_id;
  const taken = await lossesOf(db, job.id);
  const instrument = await loadInstrument(db, { id: instrumentId });
  const numbers = new Set(entries.map((e) => e.number));
  if (
    numbers.size !== entries.length ||
    instrument.positions.some((p) => !numbers.has(p.number)) ||
    numbers.size !== instrument.positions.length
  ) {
    throw refused(
      'positions',
      'A string is left out',
      `Say what happened to every string, once each; ${instrument.tag} has strings ${instrument.positions.map((p) => p.number).join(', ')}.`,
    );
  }
  const products = await loadProducts(
    db,
    entries.map((e) => e.productId),
  );
  const person = must(await db('person').where({ id: personId }).first());
  // As its card says; a string it does not know is judged by the way in which the job is done.
  const card = must(await db('job').where({ id: job.id }).first());
  const halves = columns.numbers.read(card.halves);
  const method: Method = card.method
    ? columns.method.read(card.method)
    : (await loadHouse(db, instrument.build.family)).house.method;
  const programme = await programmeRow(db);
  const needs = entries.flatMap((entry) => {
    if (entry.action !== 'fit') return [];
    const product = products.get(entry.productId ?? -1);
    if (!product)
      throw refused(
        'product',
        'A string is not chosen yet',
        `Choose which string you fitted at position ${entry.number}.`,
      );
    const position = instrument.positions.find((x) => x.number === entry.number);
    const half =
      product.id === position?.houseProductId
        ? halves.includes(entry.number)
        : halfServes(instrument.build, method, entry.number, product, programme.a4_hz);
    const need = {
      number: entry.number,
      productId: String(product.id),
      amount: half ? ('half' as const) : ('whole' as const),
      found: entry.found,
    };
    // What was taken from the shelf when it broke is not taken again.
    const already = taken.filter((l) => l.number === entry.number).length;
    return Array.from({ length: 1 + Math.max(0, entry.broken - already) }, () => need);
  });
  const brokenAt = (number: number) => entries.find((e) => e.number === number)?.broken ?? 0;
  const counts = (loss: LossRow) =>
    taken.filter((l) => l.number === loss.number && l.id <= loss.id).length <= brokenAt(loss.number);
  const { shelf, plan } = await shelfForJob(db, person.place_id, job.id, needs);
  return {
    instrument,
    products,
    needs,
    plan,
    shelf,
    placeId: person.place_id,
    lost: taken.filter(counts),
    notLost: taken.filter((l) => !counts(l)),
  };
}
