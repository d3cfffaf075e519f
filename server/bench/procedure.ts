import { createHash } from 'node:crypto';
import type { Knex } from 'knex';
import { depart } from '../../core/procedures/choices';
import { changeKind, composeProcedure } from '../../core/procedures/compose';
import { applyHouse, type House } from '../../core/procedures/houseMethod';
import {
  type Gap,
  isChange,
  type JobKind,
  type LastTime,
  type Method,
  type Procedure,
  type StringToFit,
} from '../../core/procedures/types';
import { compareSets, type SetChange } from '../../core/strings/set';
import { among } from '../db/among';
import * as columns from '../db/columns';
import { halfServes, stringToFit } from '../fleet/fit';
import type { Instrument, StringProduct } from '../fleet/instruments';

/**
 * The house strings of an instrument, with half a string where that reaches by the house method, as the instrument keeps
 * it, or by another way of working.
 */
export function houseStrings(
  instrument: Instrument,
  products: ReadonlyMap<number, StringProduct>,
  otherWay?: { method: Method; a4Hz: number },
): StringToFit[] {
  return instrument.positions.flatMap((p) => {
    const product = p.houseProductId === null ? undefined : products.get(p.houseProductId);
    if (!product) return [];
    const half = otherWay
      ? halfServes(instrument.build, otherWay.method, p.number, product, otherWay.a4Hz)
      : p.houseHalf;
    return [stringToFit(p, product, half)];
  });
}

/** The strings that are on now, as far as they are known. */
export function stringsOn(instrument: Instrument, products: ReadonlyMap<number, StringProduct>): StringToFit[] {
  return instrument.positions.flatMap((p) => {
    const product = p.now.state === 'on' && p.now.productId !== null ? products.get(p.now.productId) : undefined;
    return product ? [stringToFit(p, product, p.now.half)] : [];
  });
}

/** What a job is to be. */
export interface JobRequest {
  /** Absent: the change that so many strings make. */
  kind?: JobKind | undefined;
  /** Positions to change; absent: all. */
  numbers?: readonly number[] | undefined;
  /** Where this one job departs from the house method, and why. */
  departure?: { method: Partial<Method>; reason: string } | undefined;
  /** Whether it is for a bench, with the words for being led by phase. */
  led?: boolean;
}

export interface ComposedJob {
  kind: JobKind;
  numbers: number[];
  /** In which choices it departs from the house. */
  differs: string[];
  /** Positions that get half of their house string. */
  halves: number[];
  composed: { procedure: Procedure } | { gaps: Gap[] };
}

/** Cards that are kept composed: those of a few classes and of what is on the benches. */
const MOST_KEPT = 400;
const kept = new Map<string, ComposedJob>();

/**
 * The procedure of a job as `compose` makes it, kept while nothing of it changes: what it is made of is its key. What
 * comes back is shared, and not to be changed.
 * @throws NoReasonError for a departure without a reason
 */
export function composeJob(p: Parameters<typeof compose>[0]): ComposedJob {
  const { instrument, products } = p;
  const of = (id: number | null) => (id === null ? null : products.get(id));
  const key = JSON.stringify([
    instrument.build,
    instrument.positions.map((x) => [of(x.houseProductId), x.houseHalf, x.now.state, of(x.now.productId), x.now.half]),
    p.house,
    p.last,
    p.request,
    p.a4Hz,
  ]);
  const known = kept.get(key);
  // What was asked for last is dropped last.
  if (known) kept.delete(key);
  const composed = known ?? compose(p);
  kept.set(key, composed);
  if (kept.size > MOST_KEPT) kept.delete(kept.keys().next().value as string);
  return composed;
}

/**
 * The procedure of a job on an instrument by the house method, in the house's words, with what is known of the change
 * before, or why there is none.
 * @throws NoReasonError for a departure without a reason
 */
function compose(p: {
  instrument: Instrument;
  house: House;
  products: ReadonlyMap<number, StringProduct>;
  last: LastTime | null;
  request?: JobRequest;
  a4Hz?: number;
}): ComposedJob {
  const { instrument, house, products } = p;
  const request = p.request ?? {};
  const wanted = request.numbers?.length ? new Set(request.numbers) : null;
  const numbers = instrument.positions.map((x) => x.number).filter((n) => wanted?.has(n) ?? true);
  const kind = request.kind ?? changeKind(instrument.build, numbers.length);
  const { method, differs } = depart(house.method, request.departure?.method ?? {}, request.departure?.reason ?? '');
  const on = stringsOn(instrument, products);
  const otherWay = differs.length > 0 ? { method, a4Hz: p.a4Hz ?? 440 } : undefined;
  const going = kind === 'refit' && on.length > 0 ? on : houseStrings(instrument, products, otherWay);
  const strings = (isChange(kind) ? going : on.length ? on : going).filter((s) => numbers.includes(s.number));
  const halves = strings.filter((s) => s.half).map((s) => s.number);
  const answer = (composed: ComposedJob['composed']): ComposedJob => ({ kind, numbers, differs, halves, composed });
  if (isChange(kind) && strings.length < numbers.length)
    return answer({ gaps: [{ capability: 'seat-tail', needs: 'a usual string for every position' }] });
  const composed = composeProcedure(instrument.build, method, strings, {
    kind,
    last: p.last,
    ...(p.a4Hz === undefined ? {} : { a4Hz: p.a4Hz }),
    change: isChange(kind) && kind !== 'refit' ? changeOf(instrument, on, strings) : null,
    led: request.led ?? false,
  });
  return answer(
    'procedure' in composed ? { procedure: applyHouse(instrument.build, composed.procedure, house) } : composed,
  );
}

/** New strings against those they replace; null while nobody knows what was on. */
function changeOf(instrument: Instrument, on: readonly StringToFit[], going: readonly StringToFit[]): SetChange | null {
  const before = on.filter((s) => going.some((g) => g.number === s.number));
  return before.length === going.length ? compareSets(instrument.build, before, going) : null;
}

/** How the strings that are on instruments were put on: by the last change that stands, where it was recorded. */
export async function lastMethods(db: Knex, instrumentIds: readonly number[]): Promise<Map<number, Method>> {
  const rows: { instrument_id: number; method: string }[] = await db('instrument_state as s')
    .join('job as j', 'j.id', 's.last_job_id')
    .whereIn('s.instrument_id', among(db, instrumentIds))
    .whereNotNull('j.method')
    .select('s.instrument_id', 'j.method');
  // Most are done one way, so each way is read once.
  const ways = new Map<string, Method>();
  return new Map(
    rows.map((r) => {
      const way = ways.get(r.method) ?? columns.method.read(r.method);
      ways.set(r.method, way);
      return [r.instrument_id, way];
    }),
  );
}

export const lastTime = (method: Method | undefined): LastTime | null =>
  method ? { winds: method.winds, leaveMm: method.trim.leaveMm } : null;

/** Keeps a procedure as it was used; the same one is kept once. */
export async function keepSnapshot(trx: Knex, procedure: Procedure): Promise<string> {
  const body = JSON.stringify(procedure);
  const hash = createHash('sha256').update(body).digest('base64url');
  await trx('procedure_snapshot').insert({ hash, body }).onConflict('hash').ignore();
  return hash;
}
