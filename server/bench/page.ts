import type { Knex } from 'knex';
import type { FinishEntry } from '../../contract/bench';
import type { LocalDate } from '../../core/dates';
import { type Build, describeBuild, PART_NAMES, type Side } from '../../core/instruments/build';
import { smallPartsOf } from '../../core/parts/smallParts';
import { targetsHz } from '../../core/pitch/tunings';
import type { Lead } from '../../core/procedures/led';
import { liesOn, postPhrase, stringLabel } from '../../core/procedures/words';
import type { CoreMaterial } from '../../core/strings/materials';
import { type StripString, stripAt } from '../../core/wear/strip';
import { among } from '../db/among';
import * as columns from '../db/columns';
import { must } from '../db/must';
import { type FoundBefore, foundBefore } from '../fleet/facts';
import { loadInstrument, loadProducts, productOf } from '../fleet/instruments';
import { leadOf } from '../people/people';
import { type Job, lastEntries } from './jobs';

export interface BenchPosition {
  number: number;
  note: string;
  /** The row of the head its post is in, for drawing it and turning it. */
  side: Side;
  /** The side of the board it lies on, for naming it. */
  lies: Side;
  course: number;
  houseProductId: number | null;
}

/** All that the bench shows of one job. */
export interface BenchView {
  job: Job;
  name: string;
  parts: string;
  strip: StripString[];
  positions: BenchPosition[];
  /** What was recorded before it was taken back, to start the finish from. */
  previous: Pick<FinishEntry, 'number' | 'action' | 'productId'>[];
  choices: { id: number; name: string; gaugeMm: number; massKgPerM: number; wound: boolean }[];
  tuned: {
    number: number;
    hz: number;
    label: string;
    core: CoreMaterial;
    wound: boolean;
    /** Which way its button turns to tighten, in words. */
    tightens: string;
  }[];
  build: Pick<Build, 'head' | 'handedness' | 'tuner' | 'tailEnd' | 'stringEnd' | 'post'>;
  /** How whoever opened this page is led. */
  lead: Lead;
  /** How the maker marks the envelopes or ball ends of its usual set, as recorded; empty: not recorded. */
  marks: string;
  /** Pins and spacers it takes, counted at the finish. */
  small: ReturnType<typeof smallPartsOf>;
  /** How it was found before, for who takes it apart now. */
  before: FoundBefore;
  /** One holds it while another works. */
  takesTwo: boolean;
  /** The day by the programme's clock. */
  today: LocalDate;
}

/** What the bench shows of a job, with the strings that could go on and the pitches they are tuned to. */
export async function benchView(
  db: Knex,
  job: Job,
  at: { today: LocalDate; now: number; a4Hz: number; personId: number },
): Promise<BenchView> {
  const instrument = await loadInstrument(db, { tag: job.tag });
  const { build } = instrument;
  const targets = targetsHz(build.positions, { a4Hz: at.a4Hz, temperament: 'equal' });
  const productIds = instrument.positions.map((p) => p.houseProductId ?? p.now.productId);
  const products = await loadProducts(db, productIds);
  const state = must(await db('instrument_state').where({ instrument_id: instrument.id }).first());
  const houseSet = instrument.houseSetId ? await db('product').where({ id: instrument.houseSetId }).first() : null;
  // Strings that could go on at some position of this instrument.
  const houseIds = instrument.positions.map((p) => p.houseProductId);
  const rows = await db('product')
    .where({ kind: 'single' })
    .where((q) => q.where({ family: build.family }).orWhereIn('id', among(db, houseIds)))
    .orderBy('name');
  return {
    job,
    marks: houseSet?.marks ?? '',
    small: smallPartsOf(build),
    today: at.today,
    before: await foundBefore(db, instrument.id, job.id),
    lead: await leadOf(db, at.personId, build.family),
    name: describeBuild(build.family, build.size),
    takesTwo: instrument.takesTwo,
    parts: `${PART_NAMES[build.tailEnd]}, ${PART_NAMES[build.tuner]}${houseSet ? `, ${houseSet.name}` : ''}${build.handedness === 'left' ? ', left-handed' : ''}`,
    strip: stripAt(columns.strip.read(state.strip), at.today, at.now),
    positions: instrument.positions.map(({ number, note, side, course, houseProductId }) => ({
      lies: liesOn(build, number),
      number,
      note,
      side,
      course,
      houseProductId,
    })),
    previous: await lastEntries(db, job.id),
    choices: rows.map(productOf).map((p) => ({
      id: p.id,
      name: p.name,
      gaugeMm: p.gaugeMm,
      wound: p.wrap !== null,
      massKgPerM: p.massKgPerM,
    })),
    tuned: build.positions.map((p, i) => {
      const product = products.get(productIds[i] ?? -1);
      return {
        number: p.number,
        hz: targets.get(p.number) ?? at.a4Hz,
        label: stringLabel(build, p),
        core: product?.core ?? 'steel',
        wound: product ? product.wrap !== null : true,
        tightens: postPhrase(build, p, 'tightens'),
      };
    }),
    build: {
      head: build.head,
      handedness: build.handedness,
      tuner: build.tuner,
      tailEnd: build.tailEnd,
      stringEnd: build.stringEnd,
      post: build.post,
    },
  };
}
