import type { Knex } from 'knex';
import type { LocalDate } from '../../core/dates';
import { type Build, SIZES } from '../../core/instruments/build';
import { defaultBuild } from '../../core/instruments/defaults';
import { tagKey } from '../../core/instruments/tag';
import { impossibleBecause } from '../../core/instruments/validity';
import { HOUSE_METHODS } from '../../core/procedures/method';
import { localDate } from '../clock';
import { type Acting, change, insertId } from '../db/change';
import { notFound, refused } from '../errors';
import { programmeRow } from '../programme/programme';
import { requireSetFor } from '../stock/products';
import { halfServes } from './fit';
import { findByTag, loadProducts, type StringProduct } from './instruments';
import { refreshInstrument } from './state';
import { suggestedSet } from './suggest';

export interface NewInstrument {
  tag: string;
  family: Build['family'];
  size: string;
  placeId: number;
  holder: string;
  /** Replaces the usual parts of the family and size where this instrument differs. */
  build?: Partial<Build>;
  /** The set it is strung with; `suggest`: the one of the catalogue that suits it best. */
  houseSetId: number | null | 'suggest';
  /** House strings that differ from the set, by position. */
  houseExceptions?: Record<number, number>;
  use: { fromDay: LocalDate; toDay: LocalDate | null; hoursPerWeek: number; source: string }[];
  note: string;
  knownSince?: LocalDate;
}

/**
 * Adds an instrument. Its build starts from what is usual for the family and size; the age of its strings is unknown
 * until they are changed once, so it is due from the day it is known.
 * @throws UserError when the tag is taken or the size does not exist
 */
export async function addInstrument(db: Knex, acting: Acting, p: NewInstrument): Promise<{ id: number; tag: string }> {
  return change(db, acting, 'instrument.add', p, async (trx) => {
    if (!SIZES[p.family].includes(p.size))
      throw refused('size', 'No such size', `There is no such size. Choose one of ${SIZES[p.family].join(', ')}.`);
    const taken = await findByTag(trx, p.tag);
    if (taken)
      throw refused(
        'tag-taken',
        'This tag is taken',
        `${taken.tag} is already on another instrument. Use a different tag.`,
      );
    if (!(await trx('place').where({ id: p.placeId }).first())) throw notFound('This place');
    if (p.houseSetId !== 'suggest' && p.houseSetId !== null) await requireSetFor(trx, p.houseSetId, p.family);
    const programme = await programmeRow(trx);
    const build = defaultBuild(p.family, p.size, p.build);
    const impossible = impossibleBecause(build);
    if (impossible.length > 0)
      throw refused('impossible-build', 'These parts do not go together', impossible.join(' '));
    const houseSetId = p.houseSetId === 'suggest' ? await suggestedSet(trx, build) : p.houseSetId;
    const items = houseSetId ? await trx('set_item').where({ set_id: houseSetId }) : [];
    const house = new Map<number, number>(items.map((i) => [i.number, i.product_id]));
    for (const [number, productId] of Object.entries(p.houseExceptions ?? {})) house.set(Number(number), productId);
    const products = await loadProducts(trx, [...house.values()]);
    const id = await insertId(
      trx,
      'instrument',
      instrumentRow({ ...p, houseSetId }, build, localDate(acting.now, programme.time_zone)),
    );
    for (const row of positionRows(build, house, products, programme.a4_hz)) {
      await trx('instrument_position').insert({ instrument_id: id, ...row });
    }
    for (const use of p.use) {
      await trx('use_period').insert({
        instrument_id: id,
        from_on: use.fromDay,
        to_on: use.toDay,
        hours_per_week: use.hoursPerWeek,
        source: use.source,
      });
    }
    await refreshInstrument(trx, id, { now: acting.now, timeZone: programme.time_zone });
    return { result: { id, tag: p.tag }, entity: 'instrument', entityId: id };
  });
}

/** The columns that hold a build's parts and measures. */
export const buildColumns = (build: Build) => ({
  handedness: build.handedness,
  scale_mm: build.scaleMm,
  head: build.head,
  tuner: build.tuner,
  tail_end: build.tailEnd,
  bridge: build.bridge,
  string_end: build.stringEnd,
  fingerboard: build.fingerboard,
  extras: JSON.stringify(build.extras),
  post_diameter_mm: build.post.diameterMm,
  post_room_mm: build.post.roomUnderHoleMm,
  post_spacing_mm: build.post.spacingMm,
  noted_length_mm: build.noted?.lengthMm ?? null,
  noted_on: build.noted?.on ?? null,
});

/** The row of an instrument. */
export function instrumentRow(p: NewInstrument & { houseSetId: number | null }, build: Build, today: LocalDate) {
  return {
    tag: p.tag,
    tag_key: tagKey(p.tag),
    family: p.family,
    size: p.size,
    ...buildColumns(build),
    place_id: p.placeId,
    holder: p.holder,
    house_set_id: p.houseSetId,
    note: p.note,
    known_since_on: p.knownSince ?? today,
  };
}

/** The rows of its positions, with the house string of each and whether half of it reaches. */
export function positionRows(
  build: Build,
  house: ReadonlyMap<number, number>,
  products: ReadonlyMap<number, StringProduct>,
  a4Hz: number,
) {
  return build.positions.map((position) => {
    const product = products.get(house.get(position.number) ?? -1);
    return {
      number: position.number,
      course: position.course,
      note: position.note,
      side: position.side,
      post_order: position.postOrder,
      nut_to_post_mm: position.nutToPostMm,
      speaking_length_mm: position.speakingLengthMm ?? null,
      nut_slot_mm: position.nutSlotMm ?? null,
      house_product_id: product?.id ?? null,
      house_half: product ? halfServes(build, HOUSE_METHODS[build.family], position.number, product, a4Hz) : false,
    };
  });
}
