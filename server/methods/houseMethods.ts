import type { Knex } from 'knex';
import type { Family } from '../../core/instruments/build';
import { type House, problemsOf, usualBuild } from '../../core/procedures/houseMethod';
import type { StringToFit } from '../../core/procedures/types';
import { type Acting, change, insertId } from '../db/change';
import * as columns from '../db/columns';
import { must } from '../db/must';
import { untilWritten } from '../db/written';
import { conflict, refused } from '../errors';
import { stringToFit } from '../fleet/fit';
import { refreshHalves, withDoubleLength } from '../fleet/halves';
import { loadProducts } from '../fleet/instruments';

/** A house method as one version of it stands. */
export interface HouseVersion {
  version: number;
  house: House;
}

/** The current house methods, of these families or of all. */
export async function loadHouses(db: Knex, families?: readonly string[]): Promise<ReadonlyMap<string, HouseVersion>> {
  const all = await untilWritten(db, 'houses', async () => {
    const rows = await db('method_version').orderBy('version').select('family', 'version', 'house');
    // Later versions overwrite earlier ones.
    const latest = new Map(rows.map((row) => [row.family as string, row]));
    return new Map(
      [...latest].map(([family, row]) => [family, { version: row.version, house: columns.house.read(row.house) }]),
    );
  });
  return families ? new Map([...all].filter(([family]) => families.includes(family))) : all;
}

/** The current house method of a family. */
export const loadHouse = (db: Knex, family: Family): Promise<HouseVersion> =>
  untilWritten(db, `house/${family}`, async () => {
    const row = must(await db('method_version').where({ family }).orderBy('version', 'desc').first());
    return { version: row.version, house: columns.house.read(row.house) };
  });

export interface HouseHistory {
  version: number;
  by: string | null;
  at: number | null;
  why: string;
}

/** All versions of a family's method, the newest first. */
export async function houseHistory(db: Knex, family: Family): Promise<HouseHistory[]> {
  const rows = await db('method_version as m')
    .leftJoin('person as p', 'p.id', 'm.person_id')
    .where({ 'm.family': family })
    .orderBy('m.version', 'desc')
    .select('m.version', 'm.at', 'm.why', 'p.name');
  return rows.map((r) => ({ version: r.version, by: r.name, at: r.at, why: r.why }));
}

/** One older version, to look at or to go back to. @throws UserError when there is none */
export async function loadHouseVersion(db: Knex, family: Family, version: number): Promise<House> {
  const row = await db('method_version').where({ family, version }).first();
  if (!row) throw refused('no-version', 'No such version', 'There is no such version. Choose one from the list.');
  return columns.house.read(row.house);
}

/** Strings to show a family's method with when no instrument is chosen: those of its first set in the catalogue. */
export async function exampleStrings(db: Knex, family: Family): Promise<StringToFit[]> {
  const build = usualBuild(family);
  const sets = await db('product').where({ kind: 'set', family }).orderBy('id');
  for (const set of sets) {
    const items = await db('set_item').where({ set_id: set.id });
    const products = await loadProducts(
      db,
      items.map((i) => i.product_id),
    );
    const strings = build.positions.flatMap((position) => {
      const item = items.find((i) => i.number === position.number);
      const product = item && products.get(item.product_id);
      return product ? [stringToFit(position, product, false)] : [];
    });
    if (strings.length === build.positions.length) return strings;
  }
  return [];
}

/**
 * Keeps a house method as a new version; jobs that are open keep the one they were opened with.
 * @throws UserError `conflict` when somebody saved another version meanwhile, `unsound` with every problem in words
 */
export async function saveHouse(
  db: Knex,
  acting: Acting,
  p: { family: Family; expectedVersion: number; house: House; why: string },
): Promise<{ version: number }> {
  return change(db, acting, 'method.save', p, async (trx) => {
    const current = await loadHouse(trx, p.family);
    if (current.version !== p.expectedVersion) {
      const [latest] = await houseHistory(trx, p.family);
      throw conflict(
        `${latest?.by ?? 'Someone'} saved version ${current.version} while you were editing. Your changes are still here: check theirs, then save again.`,
        { currentVersion: current.version, current: current.house },
      );
    }
    if (JSON.stringify(current.house) === JSON.stringify(p.house))
      throw refused('no-change', 'Nothing was changed', 'Nothing is different from the current method.');
    const problems = problemsOf(usualBuild(p.family), p.house, await exampleStrings(trx, p.family));
    if (problems.length > 0) throw refused('unsound', 'This method cannot be saved as it is', problems.join(' '));
    const version = current.version + 1;
    const id = await insertId(trx, 'method_version', {
      family: p.family,
      version,
      house: JSON.stringify(p.house),
      person_id: acting.personId,
      at: acting.now,
      why: p.why,
    });
    await refreshHalves(trx, await withDoubleLength(trx, p.family), await loadHouses(trx, [p.family]));
    return { result: { version }, entity: 'method_version', entityId: id };
  });
}
