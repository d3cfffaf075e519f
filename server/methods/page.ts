import type { Knex } from 'knex';
import { type Build, FAMILIES, type Family } from '../../core/instruments/build';
import { composeProcedure } from '../../core/procedures/compose';
import { usualBuild } from '../../core/procedures/houseMethod';
import type { LastTime, Method, StringToFit } from '../../core/procedures/types';
import { usualSet } from '../../core/strings/usual';
import { houseStrings, lastMethods, lastTime } from '../bench/procedure';
import { untilWritten } from '../db/written';
import { loadInstrument, loadProducts } from '../fleet/instruments';
import {
  exampleStrings,
  type HouseHistory,
  type HouseVersion,
  houseHistory,
  loadHouse,
  loadHouses,
} from './houseMethods';

/** Strings nobody has named yet: as a usual pull asks for. */
export function assumedStrings(build: Build): StringToFit[] {
  return usualSet(build).map(({ wrap, ...s }) => ({
    ...s,
    name: `usual ${build.positions.find((p) => p.number === s.number)?.note}`,
    wound: wrap !== null,
    half: false,
  }));
}

export interface MethodLine {
  family: Family;
  version: number;
  instruments: number;
  minutes: number | null;
  steps: number;
  house: HouseVersion['house'];
  own: number;
}

const MOST_KEPT = 100;
const outlines = new Map<string, Pick<MethodLine, 'minutes' | 'steps'>>();

/** What a method comes to on a build; of what has not changed since, composed once. */
function comesTo(build: Build, method: Method, strings: readonly StringToFit[]): Pick<MethodLine, 'minutes' | 'steps'> {
  const key = JSON.stringify([build, method, strings]);
  const known = outlines.get(key);
  if (known) return known;
  const composed = composeProcedure(build, method, strings);
  const made =
    'procedure' in composed
      ? { minutes: composed.procedure.minutes, steps: composed.procedure.steps.length }
      : { minutes: null, steps: 0 };
  if (outlines.size >= MOST_KEPT) outlines.clear();
  outlines.set(key, made);
  return made;
}

/** The house methods of all families, with what they come to on the usual build. */
export const methodLines = (db: Knex): Promise<readonly MethodLine[]> =>
  untilWritten(db, 'method-lines', () => readLines(db));

async function readLines(db: Knex): Promise<MethodLine[]> {
  const houses = await loadHouses(db);
  const counts = await db('instrument')
    .whereNull('retired_on')
    .groupBy('family')
    .select('family')
    .count<{ family: string; n: number }[]>({ n: '*' });
  const countOf = new Map(counts.map((c) => [c.family, Number(c.n)]));
  const lines: MethodLine[] = [];
  for (const family of FAMILIES) {
    const current = houses.get(family);
    if (!current) continue;
    const build = usualBuild(family);
    const known = await exampleStrings(db, family);
    const { minutes, steps } = comesTo(build, current.house.method, known.length ? known : assumedStrings(build));
    lines.push({
      family,
      version: current.version,
      instruments: countOf.get(family) ?? 0,
      minutes,
      steps,
      house: current.house,
      own: Object.keys(current.house.wording).length + current.house.steps.length,
    });
  }
  return lines;
}

export interface MethodPage extends HouseVersion {
  family: Family;
  build: Build;
  strings: StringToFit[];
  assumed: boolean;
  tag: string | null;
  last: LastTime | null;
  history: HouseHistory[];
  openJob: boolean;
  /** Tags of this family, to choose one. */
  tags: string[];
}

/**
 * A family's method with the numbers of one instrument, or of the usual build.
 * @throws UserError not-found for a tag that does not exist
 */
export async function methodPage(db: Knex, family: Family, tag: string | null): Promise<MethodPage> {
  const current = await loadHouse(db, family);
  const tags: string[] = await db('instrument')
    .where({ family })
    .whereNull('retired_on')
    .orderBy('tag')
    .limit(500)
    .pluck('tag');
  const shared = { ...current, family, tags, history: await houseHistory(db, family) };
  if (tag === null) {
    const build = usualBuild(family);
    const strings = await exampleStrings(db, family);
    return {
      ...shared,
      build,
      strings: strings.length ? strings : assumedStrings(build),
      assumed: strings.length === 0,
      tag: null,
      last: null,
      openJob: false,
    };
  }
  const instrument = await loadInstrument(db, { tag });
  const products = await loadProducts(
    db,
    instrument.positions.map((p) => p.houseProductId),
  );
  const strings = houseStrings(instrument, products);
  const whole = strings.length === instrument.positions.length;
  const open = await db('job').where({ instrument_id: instrument.id, status: 'open' }).first();
  return {
    ...shared,
    build: instrument.build,
    strings: whole ? strings : assumedStrings(instrument.build),
    assumed: !whole,
    tag,
    last: lastTime((await lastMethods(db, [instrument.id])).get(instrument.id)),
    openJob: Boolean(open),
  };
}
