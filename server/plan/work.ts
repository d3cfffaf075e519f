import type { Knex } from 'knex';
import { addDays, daysBetween, earlier, type LocalDate, sayWeekday } from '../../core/dates';
import { FAMILY_NAMES, type Family } from '../../core/instruments/build';
import { PLAN_KIND_WORDS, type PlanKind } from '../../core/planning/kinds';
import { LEVEL } from '../../core/planning/ladder';
import { usualMinutes } from '../../core/procedures/batch';
import type { House } from '../../core/procedures/house';
import { batchKey } from '../../core/procedures/together';
import type { JobKind, Method, Procedure } from '../../core/procedures/types';
import { settlingDays, type VisitKind, visitsAfterChange } from '../../core/settling/readyBy';
import type { CoreMaterial } from '../../core/strings/materials';
import { composeJob, type JobRequest, lastMethods, lastTime } from '../bench/procedure';
import { among } from '../db/among';
import { type Instrument, loadMany, loadProducts, type StringProduct } from '../fleet/instruments';
import { loadHouses } from '../methods/house';

/** A job that somebody has to do in the weeks ahead, before it is put anywhere. */
export interface Work {
  kind: PlanKind;
  instrument: Instrument;
  /** What it is, such as "full set" or "retune". */
  what: string;
  because: string;
  dueOn: LocalDate;
  /** Minutes the procedure says, and what is learned together. */
  minutes: number;
  method: string;
  /** Jobs of one group share a set-up; level 0 to 4 that somebody needs for it alone. */
  group: { key: string; name: string; family: Family | null; setUp: boolean };
  needed: number;
  usesPack: boolean;
  wall: { on: LocalDate; why: string } | null;
  weight: number;
  visits: number[];
}

/** An instrument whose strings have been on for longer than this gets its yearly service with the change. */
const SERVICE_AFTER_DAYS = 330;
const LOOK_MINUTES = 10;
const VISIT_MINUTES = { retune: 5, 'bridge-check': 5, 'proper-look': 12 } as const;
/** Instruments that are due and planned at once, the longest due first. */
export const MOST_DUE = 2000;

const SHORT_JOB: Partial<Record<JobKind, string>> = {
  'full-set': 'full set',
  'yearly-service': 'yearly service',
  'one-string': 'one string',
  refit: 'off and on again',
};

/** Jobs that fall due in some days: changes, first looks, what was asked for by hand, and visits after changes. */
export async function workAhead(db: Knex, p: { first: LocalDate; until: LocalDate }): Promise<Work[]> {
  const states = await db('instrument_state')
    .where('due_on', '<=', p.until)
    .orderBy([{ column: 'due_on' }, { column: 'tag' }])
    .limit(MOST_DUE);
  const visits = await db('follow_up')
    .where({ status: 'open' })
    .where('due_on', '<=', p.until)
    .orderBy([{ column: 'due_on' }, { column: 'id' }]);
  const requests = await db('plan_request').where({ status: 'open' }).where('due_on', '<=', p.until).orderBy('due_on');
  const ids = [...new Set([...states, ...visits, ...requests].map((s) => s.instrument_id as number))];
  const instruments = new Map((await loadMany(db, ids)).map((i) => [i.id, i]));
  const products = await loadProducts(
    db,
    [...instruments.values()].flatMap((i) => i.positions.flatMap((x) => [x.houseProductId, x.now.productId])),
  );
  const houses = await loadHouses(db);
  const lasts = await lastMethods(db, ids);
  const concerts = new Map<number, { name: string; on: LocalDate }>();
  for (const c of await db('concert_instrument as x')
    .join('concert as c', 'c.id', 'x.concert_id')
    .whereIn('x.instrument_id', among(db, ids))
    .where('c.on_day', '>', p.first)
    .orderBy('c.on_day', 'desc')
    .select('x.instrument_id', 'c.name', 'c.on_day'))
    concerts.set(c.instrument_id, { name: c.name, on: c.on_day });
  const lessons = new Map<number, LocalDate[]>();
  for (const b of await db('instrument_busy')
    .whereIn('instrument_id', among(db, ids))
    .where({ kind: 'lesson' })
    .where('from_on', '>', p.first)
    .orderBy('from_on'))
    lessons.set(b.instrument_id, [...(lessons.get(b.instrument_id) ?? []), b.from_on]);

  const work: Work[] = [];
  const outline = outlines(products, lasts);
  const asked = new Map(requests.map((r) => [`${r.instrument_id}/${r.kind}`, r]));
  const stringsOf = (state: Record<string, string | number>, instrument: Instrument): void => {
    const family = instrument.build.family;
    const house = houses.get(family)?.house;
    if (!house) return;
    const due: { by: string; since: LocalDate | null; inspection: { verdict: string } | null } = JSON.parse(
      state.due as string,
    );
    const dueOn = state.due_on as LocalDate;
    // Of unknown age, or due to be looked at again: a look comes first and says when they are changed.
    if (due.by === 'unknown-age' || (due.by === 'condition' && !due.inspection)) {
      work.push(
        lookOf(instrument, dueOn, due.by === 'unknown-age' ? 'age of the strings unknown' : 'to look at again'),
      );
      return;
    }
    const toChange: number[] = JSON.parse(state.to_change as string);
    const numbers = toChange.length < instrument.positions.length ? toChange : undefined;
    const service = asked.get(`${instrument.id}/service`);
    const old = due.since !== null && daysBetween(due.since, dueOn) >= SERVICE_AFTER_DAYS;
    const kind: JobKind | undefined = service || (old && !numbers?.length) ? 'yearly-service' : undefined;
    const procedure = outline(instrument, house, {
      ...(numbers?.length ? { numbers } : {}),
      ...(kind ? { kind } : {}),
    });
    work.push({
      ...changeOf(instrument, procedure),
      kind: kind ? 'service' : 'change',
      what: SHORT_JOB[procedure?.kind ?? 'full-set'] ?? 'part of a set',
      because: due.by,
      dueOn: service ? earlier(service.due_on, dueOn) : dueOn,
      wall: wallOf(
        instrument,
        due.by === 'broken',
        products,
        concerts.get(instrument.id),
        lessons.get(instrument.id),
        p,
      ),
      weight:
        (due.by === 'broken' ? 3 : due.by === 'concert' || dueOn < p.first ? 2 : 1) +
        (instrument.player === 'hard' ? 0.5 : 0),
    });
  };
  const changeOf = (
    instrument: Instrument,
    procedure: Outline | null,
  ): Omit<Work, 'what' | 'because' | 'dueOn' | 'wall' | 'weight'> => {
    const { build } = instrument;
    const method = procedure?.method ?? houses.get(build.family)?.house.method;
    const floating = build.bridge === 'floating';
    return {
      kind: 'change',
      instrument,
      minutes: procedure?.minutes ?? usualMinutes({ positions: build.positions.length, bridge: build.bridge }),
      method: build.family,
      group: {
        // Instruments with a floating bridge share a set-up by family although each is worked alone.
        key: floating || !method ? `floating/${build.family}` : batchKey(build, method, ''),
        name: FAMILY_NAMES[build.family].toLowerCase(),
        family: build.family,
        setUp: true,
      },
      needed: LEVEL.alone,
      usesPack: true,
      visits: [...new Set(visitsAfterChange(build.bridge).map((v) => v.day))],
    };
  };
  const lookOf = (instrument: Instrument, dueOn: LocalDate, because: string): Work => ({
    kind: 'inspection',
    instrument,
    what: PLAN_KIND_WORDS.inspection,
    because,
    dueOn,
    minutes: LOOK_MINUTES,
    method: 'inspection',
    group: {
      key: `look/${instrument.build.family}`,
      name: FAMILY_NAMES[instrument.build.family].toLowerCase(),
      family: instrument.build.family,
      setUp: false,
    },
    needed: LEVEL.alone,
    usesPack: false,
    wall: null,
    weight: 1,
    visits: [],
  });

  for (const s of states) {
    const instrument = instruments.get(s.instrument_id);
    if (instrument) stringsOf(s, instrument);
  }
  const known = new Set(work.map((w) => `${w.kind}/${w.instrument.id}`));
  const has = (kind: PlanKind, id: number): boolean => {
    if (known.has(`${kind}/${id}`)) return true;
    known.add(`${kind}/${id}`);
    return false;
  };
  for (const r of requests) {
    const instrument = instruments.get(r.instrument_id);
    const house = instrument && houses.get(instrument.build.family)?.house;
    if (!instrument || !house) continue;
    if (r.kind === 'inspection') {
      if (!has('inspection', instrument.id)) work.push(lookOf(instrument, r.due_on, r.why));
      continue;
    }
    const kind: PlanKind = r.kind === 'service' ? 'service' : 'refit';
    if (has(kind, instrument.id)) continue;
    const procedure = outline(instrument, house, { kind: kind === 'service' ? 'yearly-service' : 'refit' });
    work.push({
      ...changeOf(instrument, procedure),
      kind,
      usesPack: kind === 'service',
      what: PLAN_KIND_WORDS[kind],
      because: r.why,
      dueOn: r.due_on,
      wall: wallOf(instrument, false, products, concerts.get(instrument.id), undefined, p),
      weight: 1,
    });
  }
  for (const v of visits) {
    const instrument = instruments.get(v.instrument_id);
    const kind = v.kind as VisitKind;
    if (!instrument || has(kind, instrument.id)) continue;
    const { family } = instrument.build;
    work.push({
      kind,
      instrument,
      what: kind === 'retune' ? `retune, day ${v.day}` : PLAN_KIND_WORDS[kind],
      because: 'after a change',
      dueOn: v.due_on,
      minutes: VISIT_MINUTES[kind],
      method: kind,
      group: {
        key: kind === 'retune' ? 'retune' : `${kind}/${family}`,
        name: kind === 'retune' ? 'retunes' : FAMILY_NAMES[family].toLowerCase(),
        family: kind === 'retune' ? null : family,
        setUp: false,
      },
      needed: kind === 'retune' ? LEVEL.supervised : LEVEL.alone,
      usesPack: false,
      wall: null,
      // A bridge that leans does harm; a string gone flat does not.
      weight: kind === 'bridge-check' ? 1 : 0.5,
      visits: [],
    });
  }
  return work;
}

type Outline = Pick<Procedure, 'kind' | 'method' | 'minutes'>;

/**
 * What a plan needs of procedures: which kind and way of working, and how long. Instruments that are alike in all that
 * the composer sees, as those of a class are, are composed once.
 */
function outlines(
  products: ReadonlyMap<number, StringProduct>,
  lasts: ReadonlyMap<number, Method>,
): (instrument: Instrument, house: House, request: JobRequest) => Outline | null {
  const known = new Map<string, Outline | null>();
  return (instrument, house, request) => {
    const last = lastTime(lasts.get(instrument.id));
    const strings = instrument.positions.map((x) => [x.houseProductId, x.houseHalf, x.now.productId, x.now.state]);
    const key = JSON.stringify([instrument.build, strings, last, request]);
    const at = known.get(key);
    if (at !== undefined) return at;
    const { composed } = composeJob({ instrument, house, products, last, request });
    const found = 'procedure' in composed ? composed.procedure : null;
    const own = found ? { kind: found.kind, method: found.method, minutes: found.minutes } : null;
    known.set(key, own);
    return own;
  };
}

/**
 * The last day for a job: before a concert, or, where an instrument cannot be played, before the next lesson for which
 * new strings still have time to settle.
 */
function wallOf(
  instrument: Instrument,
  broken: boolean,
  products: ReadonlyMap<number, StringProduct>,
  concert: { name: string; on: LocalDate } | undefined,
  lessons: readonly LocalDate[] | undefined,
  p: { first: LocalDate; until: LocalDate },
): Work['wall'] {
  const cores = instrument.positions
    .map((x) => products.get(x.houseProductId ?? -1)?.core)
    .filter((c): c is CoreMaterial => c !== undefined);
  const settle = settlingDays(cores);
  const before = (on: LocalDate, what: string) => ({
    on: addDays(on, -settle),
    why: `${what}, and its strings settle for ${settle} ${settle === 1 ? 'day' : 'days'}`,
  });
  const walls = [
    ...(concert ? [before(concert.on, `${concert.name} is on ${sayWeekday(concert.on)}`)] : []),
    ...(broken ? (lessons ?? []).map((on) => before(on, `it is needed for a lesson on ${sayWeekday(on)}`)) : []),
  ].filter((w) => w.on >= p.first && w.on <= p.until);
  return walls.sort((a, b) => (a.on < b.on ? -1 : 1))[0] ?? null;
}
