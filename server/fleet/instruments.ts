import type { Knex } from 'knex';
import type { Build, Position } from '../../core/instruments/build';
import { tagKey } from '../../core/instruments/tag';
import { massKgPerM } from '../../core/strings/mass';
import type { CoreMaterial, Material } from '../../core/strings/materials';
import type { Player } from '../../core/wear/exposure';
import { among } from '../db/among';
import * as columns from '../db/columns';
import { untilWritten } from '../db/written';
import { notFound, refused } from '../errors';
import { keptInstruments } from './keptInstruments';

/** A single string as sold. */
export interface StringProduct {
  id: number;
  sku: string;
  name: string;
  gaugeMm: number;
  coreMm: number;
  core: CoreMaterial;
  wrap: Material | null;
  massKgPerM: number;
  lengthMm: number;
  doubleLength: boolean;
  priceCents: number;
  coated: boolean;
  /** Core of a wound string; unknown counts as round. */
  hexCore: boolean;
  flatWound: boolean;
  /** From the ball to where the full winding ends; null: to the tip. */
  windingMm: number | null;
}

export interface InstrumentPosition extends Position {
  houseProductId: number | null;
  houseHalf: boolean;
  now: {
    state: 'on' | 'missing';
    entryId: number | null;
    productId: number | null;
    half: boolean;
    fittedAt: number | null;
  };
}

export interface Instrument {
  id: number;
  tag: string;
  build: Build;
  positions: InstrumentPosition[];
  placeId: number;
  holder: string;
  houseSetId: number | null;
  /** How hard its players' hands are on strings. */
  player: Player;
  note: string;
  maker: string;
  model: string;
  serial: string;
  knownSinceOn: string;
  /** The day set for a first look, where many instruments of unknown age came at once. */
  firstLookOn: string | null;
  /** One holds it while another works. */
  takesTwo: boolean;
  /** Sold, lost or written off on that day. */
  retiredOn: string | null;
  version: number;
}

// Rows come back as SQL columns; this is the one place that knows their names for an instrument.
type Row = Record<string, unknown>;

export function instrumentOf(row: Row, positionRows: Row[]): Instrument {
  const positions = positionRows
    .map(
      (p): InstrumentPosition => ({
        number: p.number as number,
        course: p.course as number,
        note: p.note as string,
        side: p.side as Position['side'],
        postOrder: p.post_order as number,
        nutToPostMm: p.nut_to_post_mm as number,
        ...(p.nut_slot_mm ? { nutSlotMm: p.nut_slot_mm as number } : {}),
        ...(p.speaking_length_mm ? { speakingLengthMm: p.speaking_length_mm as number } : {}),
        houseProductId: p.house_product_id as number | null,
        houseHalf: Boolean(p.house_half),
        now: {
          state: p.now_state as 'on' | 'missing',
          entryId: p.now_entry_id as number | null,
          productId: p.now_product_id as number | null,
          half: Boolean(p.now_half),
          fittedAt: p.now_fitted_at as number | null,
        },
      }),
    )
    .sort((a, b) => b.number - a.number);
  return {
    id: row.id as number,
    tag: row.tag as string,
    build: {
      family: row.family as Build['family'],
      size: row.size as string,
      handedness: row.handedness as Build['handedness'],
      scaleMm: row.scale_mm as number,
      head: row.head as Build['head'],
      tuner: row.tuner as Build['tuner'],
      tailEnd: row.tail_end as Build['tailEnd'],
      bridge: row.bridge as Build['bridge'],
      stringEnd: row.string_end as Build['stringEnd'],
      fingerboard: row.fingerboard as Build['fingerboard'],
      extras: columns.texts.read(row.extras as string) as Build['extras'],
      post: {
        diameterMm: row.post_diameter_mm as number,
        roomUnderHoleMm: row.post_room_mm as number,
        spacingMm: row.post_spacing_mm as number,
      },
      ...(row.noted_length_mm
        ? { noted: { lengthMm: row.noted_length_mm as number, on: row.noted_on as string } }
        : {}),
      positions: positions.map(({ houseProductId: _h, houseHalf: _a, now: _n, ...position }) => position),
    },
    positions,
    placeId: row.place_id as number,
    holder: row.holder as string,
    houseSetId: row.house_set_id as number | null,
    player: ((row.player as string | undefined) ?? 'average') as Player,
    note: row.note as string,
    maker: row.maker as string,
    model: row.model as string,
    serial: row.serial as string,
    knownSinceOn: row.known_since_on as string,
    firstLookOn: (row.first_look_on as string | null) ?? null,
    takesTwo: Boolean(row.takes_two),
    retiredOn: (row.retired_on as string | null) ?? null,
    version: row.version as number,
  };
}

/** Nothing is begun on what is not in the programme any more. @throws UserError `gone` */
export function requireHere(instrument: Pick<Instrument, 'tag' | 'retiredOn'>): void {
  if (instrument.retiredOn !== null)
    throw refused(
      'gone',
      'No longer in the programme',
      `${instrument.tag} is no longer in the programme. Bring it back on its page first.`,
    );
}

/** The row of the instrument with a tag, written in any case; undefined when there is none. */
export const findByTag = (db: Knex, tag: string) =>
  untilWritten(db, `tag/${tagKey(tag)}`, () =>
    db('instrument')
      .where({ tag_key: tagKey(tag) })
      .first(),
  );

/** A tag as it stands on its instrument; as it was asked for when there is none. */
export const tagAsWritten = async (db: Knex, asked: string): Promise<string> =>
  (await findByTag(db, asked))?.tag ?? asked;

/** @throws UserError not-found */
export async function loadInstrument(db: Knex, by: { tag: string } | { id: number }): Promise<Instrument> {
  const row = await ('tag' in by ? findByTag(db, by.tag) : db('instrument').where(by).first());
  if (!row) throw notFound('tag' in by ? `“${by.tag}”` : 'This instrument');
  return instrumentOf(row, await db('instrument_position').where({ instrument_id: row.id }));
}

export function productOf(row: Row): StringProduct {
  const build = {
    gaugeMm: row.gauge_mm as number,
    coreMm: row.core_mm as number,
    core: row.core as CoreMaterial,
    wrap: row.wrap as Material | null,
    ...(row.flat_wound ? { wrapShape: 'flat' as const } : {}),
    massKgPerM: row.mass_kg_per_m as number | null,
  };
  return {
    id: row.id as number,
    sku: row.sku as string,
    name: row.name as string,
    gaugeMm: build.gaugeMm,
    coreMm: build.coreMm,
    core: build.core,
    wrap: build.wrap,
    massKgPerM: massKgPerM(build),
    lengthMm: row.length_mm as number,
    doubleLength: Boolean(row.double_length),
    priceCents: row.price_cents as number,
    coated: Boolean(row.coated),
    hexCore: Boolean(row.hex_core),
    flatWound: Boolean(row.flat_wound),
    windingMm: (row.winding_mm as number | null) ?? null,
  };
}

/** Single strings by id. */
export async function loadProducts(db: Knex, ids: readonly (number | null)[]): Promise<Map<number, StringProduct>> {
  const wanted = [...new Set(ids.filter((id): id is number => id !== null))];
  const rows = await db('product').whereIn('id', among(db, wanted)).where({ kind: 'single' });
  return new Map(rows.map((row) => [row.id, productOf(row)]));
}

/** Several instruments at once, in no order. */
export const loadMany = (db: Knex, ids: readonly number[]): Promise<Instrument[]> =>
  keptInstruments(db, ids, (missing) => readMany(db, missing));

async function readMany(db: Knex, ids: readonly number[]): Promise<Instrument[]> {
  const rows = await db('instrument').whereIn('id', among(db, ids));
  const positions = new Map<number, Row[]>();
  for (const p of await db('instrument_position').whereIn('instrument_id', among(db, ids))) {
    const own = positions.get(p.instrument_id);
    if (own) own.push(p);
    else positions.set(p.instrument_id, [p]);
  }
  return rows.map((row) => instrumentOf(row, positions.get(row.id) ?? []));
}

/** Instruments by their tags, in that order; a tag nobody has is left out. */
export async function loadTagged(db: Knex, tags: readonly string[]): Promise<Instrument[]> {
  const ids: number[] = await db('instrument')
    .whereIn('tag_key', among(db, tags.map(tagKey)))
    .pluck('id');
  const byTag = new Map((await loadMany(db, ids)).map((i) => [tagKey(i.tag), i]));
  return tags.flatMap((tag) => byTag.get(tagKey(tag)) ?? []);
}
